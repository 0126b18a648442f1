// SPDX-License-Identifier: MIT
#include "workbench/controls/order_chips.h"

#include <QAbstractButton>
#include <QApplication>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QStyle>

#include <algorithm>

#include "workbench/app/icons.h"
#include "workbench/app/look.h"

namespace jollyrow {
namespace {
constexpr int kHeight = 26, kGap = 20, kLineGap = 5, kCross = 18, kPad = 10, kMostWidth = 220;
constexpr int kLikelyWidth = 640;  // until a layout has spoken
}  // namespace

class OrderChips::Chip final : public QAbstractButton {
  public:
    Chip(const QString& name, int index, bool isChosen, const Words& words, OrderChips& chips)
        : QAbstractButton(&chips), chips_(chips), index_(index), isChosen_(isChosen), takeOut_(words.takeOut) {
        setText(name);
        setToolTip(words.move);
        setAccessibleName(name);
        setAccessibleDescription(words.move);
        setFocusPolicy(Qt::StrongFocus);
        setMouseTracking(true);
        setCursor(Qt::PointingHandCursor);
    }
    QSize sizeHint() const override {
        const QFontMetrics metrics(face());
        return {std::min(kMostWidth, kPad + metrics.horizontalAdvance(text()) + 4 + kCross), kHeight};
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        painter.setRenderHint(QPainter::Antialiasing);
        const Tokens& tokens = look();
        const bool marked = hasFocus() || underMouse();
        const QColor edge = isChosen_ ? tokens.brass : marked ? tokens.teal : tokens.hair;
        painter.setPen(QPen(edge, isChosen_ || hasFocus() ? 1.5 : 1.0));
        painter.setBrush(isChosen_ ? tokens.brassPale : tokens.panel);
        painter.drawRoundedRect(QRectF(rect()).adjusted(0.75, 0.75, -0.75, -0.75), 4, 4);
        painter.setFont(face());
        painter.setPen(tokens.ink);
        const QRect room = QStyle::visualRect(layoutDirection(), rect(), rect().adjusted(kPad, 0, -kCross - 2, 0));
        painter.drawText(room, Qt::AlignVCenter | Qt::AlignLeading,
                         painter.fontMetrics().elidedText(text(), Qt::ElideRight, room.width()));
        if (crossRect().contains(mapFromGlobal(QCursor::pos())) && underMouse()) {
            painter.setPen(Qt::NoPen);
            painter.setBrush(tokens.hair2);
            painter.drawRoundedRect(QRectF(crossRect()).adjusted(0, 4, -2, -4), 3, 3);
        }
        drawIcon(painter, Icon::Cross, QRectF(crossRect()).adjusted(1, 6, -3, -6),
                 marked || isChosen_ ? tokens.ink2 : tokens.ink3);
    }
    void mousePressEvent(QMouseEvent* event) override {
        pressed_ = event->pos();
        isDragging_ = false;
        QAbstractButton::mousePressEvent(event);
    }
    void mouseMoveEvent(QMouseEvent* event) override {
        setToolTip(crossRect().contains(event->pos()) ? takeOut_ : accessibleDescription());
        update();
        if (!(event->buttons() & Qt::LeftButton)) return;
        if (!isDragging_ && (event->pos() - pressed_).manhattanLength() < QApplication::startDragDistance()) return;
        isDragging_ = true;
        setCursor(Qt::ClosedHandCursor);
        chips_.dragTo(index_, mapToParent(event->pos()));
    }
    void mouseReleaseEvent(QMouseEvent* event) override {
        if (event->button() != Qt::LeftButton) return;
        setDown(false);
        setCursor(Qt::PointingHandCursor);
        if (std::exchange(isDragging_, false)) return chips_.drop(index_);
        if (!rect().contains(event->pos())) return;
        if (crossRect().contains(event->pos()) && crossRect().contains(pressed_))
            Q_EMIT chips_.takenOut(index_);
        else
            Q_EMIT chips_.chosen(index_);
    }
    bool event(QEvent* event) override {
        // Alt and arrows move a chip; elsewhere they go back and forward.
        if (event->type() == QEvent::ShortcutOverride) {
            const auto& key = static_cast<const QKeyEvent&>(*event);
            if (key.modifiers() == Qt::AltModifier && (key.key() == Qt::Key_Left || key.key() == Qt::Key_Right))
                event->accept();
        }
        return QAbstractButton::event(event);
    }
    void keyPressEvent(QKeyEvent* event) override {
        const int step = event->key() == Qt::Key_Left ? -1 : event->key() == Qt::Key_Right ? 1 : 0;
        if (step != 0) return go(isRightToLeft() ? -step : step, event->modifiers() == Qt::AltModifier);
        switch (event->key()) {
            case Qt::Key_Escape:
                if (!std::exchange(isDragging_, false)) return event->ignore();
                chips_.landing_.reset();
                return chips_.update();
            case Qt::Key_Delete:
            case Qt::Key_Backspace: Q_EMIT chips_.takenOut(index_); return;
            case Qt::Key_Return:
            case Qt::Key_Enter:
            case Qt::Key_Space: Q_EMIT chips_.chosen(index_); return;
            default: QAbstractButton::keyPressEvent(event);
        }
    }
    /// To the next chip, or to its place.
    void go(int step, bool moves) {
        const int to = index_ + step;
        if (to < 0 || to >= static_cast<int>(chips_.chips_.size())) return;
        if (moves)
            Q_EMIT chips_.moved(index_, to);
        else
            chips_.chips_[static_cast<std::size_t>(to)]->setFocus(Qt::OtherFocusReason);
    }

  private:
    QFont face() const { return sized(12, isChosen_ ? QFont::DemiBold : QFont::Medium); }
    /// At the end of the name: on the left where one reads from the right.
    QRect crossRect() const {
        return QStyle::visualRect(layoutDirection(), rect(), QRect(width() - kCross, 0, kCross, height()));
    }
    bool isRightToLeft() const { return layoutDirection() == Qt::RightToLeft; }

    OrderChips& chips_;
    int index_;
    bool isChosen_;
    QString takeOut_;
    QPoint pressed_;
    bool isDragging_ = false;
};

OrderChips::OrderChips(const QStringList& names, int chosen, const Words& words, QWidget* parent) : QWidget(parent) {
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    for (int i = 0; i < names.size(); ++i) chips_.push_back(new Chip(names[i], i, i == chosen, words, *this));
}

OrderChips::~OrderChips() = default;

void OrderChips::addTail(QWidget* tail) {
    tail_ = tail;
    tail->setParent(this);
    tail->show();
    updateGeometry();
}

void OrderChips::focusChip(int index) {
    if (index >= 0 && static_cast<std::size_t>(index) < chips_.size())
        chips_[static_cast<std::size_t>(index)]->setFocus(Qt::OtherFocusReason);
}

QRect OrderChips::chipRect(int index) const { return chips_[static_cast<std::size_t>(index)]->geometry(); }

/// Lays the chips out in lines; the height they take.
int OrderChips::place(int width, bool apply) const {
    int x = 0, y = 0;
    const auto put = [&](QWidget* widget, const QSize& size) {
        if (x > 0 && x + size.width() > width) {
            x = 0;
            y += kHeight + kLineGap;
        }
        const QRect at(x, y, std::min(size.width(), width), kHeight);
        if (apply)
            widget->setGeometry(
                layoutDirection() == Qt::RightToLeft ? QRect(width - at.right() - 1, y, at.width(), kHeight) : at);
        x += size.width() + kGap;
    };
    for (Chip* chip : chips_) put(chip, chip->sizeHint());
    if (tail_) put(tail_, tail_->sizeHint().expandedTo(tail_->minimumSize()));
    return y + kHeight;
}

QSize OrderChips::sizeHint() const { return {kLikelyWidth, place(laidOut_ ? width() : kLikelyWidth, false)}; }

void OrderChips::resizeEvent(QResizeEvent*) {
    const int high = place(width(), true);
    if (!std::exchange(laidOut_, true) || high != height()) updateGeometry();
}

void OrderChips::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Tokens& tokens = look();
    painter.setFont(sized(12));
    painter.setPen(tokens.ink2);
    for (std::size_t i = 0; i + 1 < chips_.size() + (tail_ ? 1 : 0); ++i) {
        const QRect chip = chips_[i]->geometry();
        const bool mirrored = layoutDirection() == Qt::RightToLeft;
        painter.drawText(QRect(mirrored ? chip.left() - kGap : chip.right() + 1, chip.top(), kGap, kHeight),
                         Qt::AlignCenter, mirrored ? QStringLiteral("‹") : QStringLiteral("›"));
    }
    if (!landing_) return;
    const auto at = static_cast<std::size_t>(*landing_);
    const QRect beside = at < chips_.size() ? chips_[at]->geometry() : chips_.back()->geometry();
    const bool onTheLeft = (at < chips_.size()) != (layoutDirection() == Qt::RightToLeft);
    const double x = onTheLeft ? beside.left() - kGap / 2.0 : beside.right() + kGap / 2.0;
    painter.setPen(QPen(tokens.brass, 2.5, Qt::SolidLine, Qt::RoundCap));
    painter.drawLine(QPointF(std::max(x, 1.5), beside.top() + 1), QPointF(std::max(x, 1.5), beside.bottom()));
}

int OrderChips::landingAt(const QPoint& position) const {
    for (std::size_t i = 0; i < chips_.size(); ++i) {
        const QRect chip = chips_[i]->geometry();
        if (position.y() > chip.bottom() + kLineGap) continue;
        const bool before =
            layoutDirection() == Qt::RightToLeft ? position.x() > chip.center().x() : position.x() < chip.center().x();
        if (before || position.y() < chip.top() - kLineGap) return static_cast<int>(i);
    }
    return static_cast<int>(chips_.size());
}

void OrderChips::dragTo(int from, const QPoint& position) {
    int at = landingAt(position);
    if (at == from + 1) at = from;
    landing_ = at == from ? std::nullopt : std::optional(at);
    update();
}

void OrderChips::drop(int from) {
    const auto at = std::exchange(landing_, std::nullopt);
    update();
    if (at) Q_EMIT moved(from, *at > from ? *at - 1 : *at);
}

}  // namespace jollyrow
