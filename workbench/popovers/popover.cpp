// SPDX-License-Identifier: MIT
#include "workbench/popovers/popover.h"
#include "workbench/controls/tall_list.h"

#include <QApplication>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QVBoxLayout>

#include "grid/paint/card.h"
#include "workbench/app/look.h"

namespace jollyrow {
namespace {
constexpr int kTip = 10, kShadow = 14;
}

Popover::Popover(const QString& title, QWidget* window) : QFrame(window), body_(new QVBoxLayout(this)) {
    setAttribute(Qt::WA_DeleteOnClose);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(title);
    body_->setContentsMargins(kShadow + 18, kTip + 14, kShadow + 18, kShadow + 14);
    body_->setSpacing(9);
    auto* heading = new QLabel(title, this);
    heading->setFont(sized(15, QFont::DemiBold));
    body_->addWidget(heading);
    qApp->installEventFilter(this);
}

QHBoxLayout& Popover::addFoot() {
    foot_ = new QWidget(this);
    auto* line = new QHBoxLayout(foot_);
    line->setContentsMargins(0, 0, 0, 0);
    body_->addWidget(foot_);
    return *line;
}

void Popover::fitHeight() {
    body_->activate();
    // Wrapped texts need as much as their width makes of them; the plain hint assumes a narrower card.
    const int needed =
        body_->hasHeightForWidth() ? body_->totalHeightForWidth(width()) : body_->totalSizeHint().height();
    if (aboveY_ >= 0) {
        const int wanted = std::min(needed, aboveY_ - 8);
        return setGeometry(x(), aboveY_ - wanted, width(), wanted);
    }
    resize(width(), std::min(needed, parentWidget()->height() - y() - 8));
}

QWidget* Popover::scrolling(QWidget* content) { return new TallList(content, this); }

namespace {
/// The controls of one name among those of a panel that take the focus.
QList<QWidget*> namesakes(const QWidget& panel, const QWidget& control) {
    QList<QWidget*> same;
    for (QWidget* widget : panel.findChildren<QWidget*>())
        if (widget->focusPolicy() != Qt::NoFocus && widget->metaObject() == control.metaObject() &&
            widget->objectName() == control.objectName() && widget->accessibleName() == control.accessibleName())
            same << widget;
    return same;
}
}  // namespace

void Popover::exchange(QWidget* old, QWidget* fresh) {
    QWidget* control = window()->focusWidget();  // the application's is another while a list of ours is open
    if (control && !old->isAncestorOf(control)) control = nullptr;
    const auto at = control ? namesakes(*old, *control).indexOf(control) : -1;
    TallList* list = nullptr;
    for (auto* candidate : findChildren<TallList*>())
        if (candidate->widget() == old) list = candidate;
    list ? list->exchange(fresh, nullptr) : delete body_->replaceWidget(old, fresh);
    fresh->show();
    if (control) {
        const auto same = namesakes(*fresh, *control);
        (same.isEmpty() ? this : same.at(std::clamp<qsizetype>(at, 0, same.size() - 1)))->setFocus();
    }
    old->hide();
    old->deleteLater();
    fitHeight();
    if (list && window()->focusWidget() && list->isAncestorOf(window()->focusWidget()))
        list->ensureWidgetVisible(window()->focusWidget(), 0, 12);
}

void Popover::openUnder(const QRect& anchor, int width) {
    const int full = std::min(scaled(width) + 2 * kShadow, std::max(width, parentWidget()->width() - 8));
    const int x = std::clamp(anchor.center().x() - full / 2, 4, std::max(4, parentWidget()->width() - full - 4));
    tipX_ = std::clamp(anchor.center().x() - x, kShadow + 24, full - kShadow - 24);
    constexpr int kLeastBelow = 260;
    aboveY_ =
        parentWidget()->height() - anchor.bottom() < kLeastBelow && anchor.top() > kLeastBelow ? anchor.top() + 2 : -1;
    if (aboveY_ >= 0) body_->setContentsMargins(kShadow + 18, kShadow + 14, kShadow + 18, kTip + 14);
    setGeometry(x, anchor.bottom() - 2, full, 200);
    fitHeight();
    show();
    raise();
    setFocus();
}

void Popover::paintEvent(QPaintEvent*) {
    const Tokens& t = look();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    if (aboveY_ >= 0) {  // the same, upside down
        painter.translate(0, height());
        painter.scale(1, -1);
    }
    const QRectF card = QRectF(rect()).adjusted(kShadow, kTip, -kShadow, -kShadow);
    paintCardShadow(painter, card, kShadow, 8, t);
    QPainterPath shape;
    shape.addRoundedRect(card, 8, 8);
    QPainterPath tip(QPointF(tipX_ - 14, kTip + 1));
    tip.cubicTo(tipX_ - 5, kTip, tipX_ - 4, 1, tipX_, 1);
    tip.cubicTo(tipX_ + 4, 1, tipX_ + 5, kTip, tipX_ + 14, kTip + 1);
    painter.setPen(QPen(t.popEdge, 1));
    painter.setBrush(t.page);
    painter.drawPath(shape.united(tip));
}

void Popover::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Escape) {
        close();
        Q_EMIT closed();
        return;
    }
    QFrame::keyPressEvent(event);
}

bool Popover::event(QEvent* event) {
    const bool taken = QFrame::event(event);
    if (event->type() == QEvent::LayoutRequest && isVisible()) fitHeight();
    return taken;
}

bool Popover::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::MouseButtonPress && isVisible() && watched->isWidgetType()) {
        auto* widget = static_cast<QWidget*>(watched);
        const bool mine = widget == this || isAncestorOf(widget) ||
                          widget->window() != window();  // a list or menu of ours has a window of its own
        if (!mine) {
            close();
            Q_EMIT closed();
        }
    }
    return QFrame::eventFilter(watched, event);
}

}  // namespace jollyrow
