// SPDX-License-Identifier: MIT
#include "grid/filter/pick_popup.h"
#include "grid/paint/card.h"

#include <QApplication>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>

#include "grid/paint/tokens.h"

namespace jollyrow {
namespace {
constexpr int kPickShadow = 10;
constexpr int kWidth = 262;
constexpr int kHeight = 360;
}  // namespace

PickPopup::PickPopup(const QString& heading, QWidget* parent, const Tokens& look)
    : QFrame(parent), look_(look), search_(new QLineEdit(this)), rows_(new PickRows(this)), foot_(new QLabel(this)) {
    setObjectName(QStringLiteral("pickPopup"));
    setAttribute(Qt::WA_DeleteOnClose);
    setAccessibleName(tr("Values of %1").arg(heading));
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(kPickShadow + 10, kPickShadow + 8, kPickShadow + 10, kPickShadow + 10);
    layout->setSpacing(7);
    auto* top = new QHBoxLayout;
    auto* title = new QLabel(heading, this);
    QFont strong = font();
    strong.setWeight(QFont::DemiBold);
    title->setFont(strong);
    top->addWidget(title, 1);
    const auto link = [&](const QString& words, auto act) {
        auto* button = new QPushButton(words, this);
        button->setFlat(true);
        button->setCursor(Qt::PointingHandCursor);
        button->setStyleSheet(
            QStringLiteral("QPushButton{border:none;background:transparent;padding:1px "
                           "2px;color:%1}QPushButton:hover,QPushButton:focus{text-decoration:underline}")
                .arg(look.tealText.name()));
        connect(button, &QPushButton::clicked, this, act);
        top->addWidget(button);
    };
    link(tr("All"), [this] { rows_->setShown(true); });
    link(tr("None"), [this] { rows_->setShown(false); });
    layout->addLayout(top);
    search_->setPlaceholderText(tr("Search"));
    search_->setClearButtonEnabled(true);
    search_->setAccessibleName(tr("Search the values of %1").arg(heading));
    layout->addWidget(search_);
    layout->addWidget(rows_, 1);
    QPalette quiet = foot_->palette();
    quiet.setColor(QPalette::WindowText, look.ink2);
    foot_->setPalette(quiet);
    foot_->setWordWrap(true);
    layout->addWidget(foot_);
    connect(search_, &QLineEdit::textChanged, rows_, &PickRows::search);
    connect(rows_, &PickRows::changed, this, &PickPopup::picked);
    search_->installEventFilter(this);
    rows_->installEventFilter(this);
    qApp->installEventFilter(this);
}

void PickPopup::openUnder(const QRect& anchor) {
    const QRect room = parentWidget()->rect();
    const int width = kWidth + 2 * kPickShadow;
    const int y = std::min(anchor.bottom() - kPickShadow + 3, std::max(0, room.bottom() - 200));
    const int height = std::min(kHeight, room.bottom() - y + kPickShadow / 2);
    setGeometry(std::clamp(anchor.left() - kPickShadow, 0, std::max(0, room.right() - width)), y, width, height);
    show();
    raise();
    search_->setFocus();
}

void PickPopup::setFoot(const QString& text, bool isWrong) {
    QPalette colours = foot_->palette();
    colours.setColor(QPalette::WindowText, isWrong ? look_.buoyText : look_.ink2);
    foot_->setPalette(colours);
    foot_->setText(text);
}

void PickPopup::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    paintCard(painter, QRectF(rect()).adjusted(kPickShadow, kPickShadow - 4, -kPickShadow, -kPickShadow), kPickShadow,
              look_);
}

void PickPopup::leave() {
    close();
    Q_EMIT closed();
}

bool PickPopup::key(int key, bool inSearch) {
    const bool isTab = key == Qt::Key_Tab || key == (inSearch ? Qt::Key_Down : Qt::Key_Backtab);
    if (key == Qt::Key_Escape || key == Qt::Key_Return || key == Qt::Key_Enter)
        leave();
    else if (isTab)
        inSearch ? rows_->setFocus(Qt::TabFocusReason) : search_->setFocus(Qt::TabFocusReason);
    else
        return false;
    return true;
}

bool PickPopup::eventFilter(QObject* watched, QEvent* event) {
    const bool isOurs = watched == search_ || watched == rows_;
    if (event->type() == QEvent::ShortcutOverride && isOurs) {
        if (static_cast<QKeyEvent*>(event)->key() == Qt::Key_Escape) event->accept();
        return false;
    }
    if (event->type() == QEvent::KeyPress && isOurs && key(static_cast<QKeyEvent*>(event)->key(), watched == search_))
        return true;
    if (event->type() == QEvent::MouseButtonPress && watched->isWidgetType() && isVisible()) {
        auto* widget = static_cast<QWidget*>(watched);
        if (widget != this && !isAncestorOf(widget)) leave();
    }
    return QFrame::eventFilter(watched, event);
}

}  // namespace jollyrow
