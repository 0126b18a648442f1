// SPDX-License-Identifier: MIT
#include "workbench/controls/segmented_switch.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

#include "workbench/app/look.h"

namespace jollyrow {

SegmentedSwitch::SegmentedSwitch(const QStringList& choices, QWidget* parent) : QWidget(parent), choices_(choices) {
    setFocusPolicy(Qt::TabFocus);
    setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
    setAccessibleName(choices.join(QStringLiteral(", ")));
}

void SegmentedSwitch::setCurrent(int index) {
    current_ = index;
    update();
}

void SegmentedSwitch::choose(int index) {
    if (index < 0 || index >= choices_.size() || index == current_) return;
    setCurrent(index);
    Q_EMIT chosen(index);
}

QSize SegmentedSwitch::minimumSizeHint() const {
    int width = 4;
    for (const QString& choice : choices_) width += fontMetrics().horizontalAdvance(choice) + 8;
    return {std::min(width, sizeHint().width()), sizeHint().height()};
}

QSize SegmentedSwitch::sizeHint() const {
    int widest = 0;
    for (const QString& choice : choices_)
        widest = std::max(widest, QFontMetrics(sized(12, QFont::DemiBold)).horizontalAdvance(choice));
    return {static_cast<int>(choices_.size()) * (widest + 22) + 2, std::max(26, fontMetrics().height() + 10)};
}

QRect SegmentedSwitch::part(int index) const {
    const int count = static_cast<int>(choices_.size());
    const int left = index * width() / count, right = (index + 1) * width() / count;
    return {left, 0, right - left, height()};
}

void SegmentedSwitch::paintEvent(QPaintEvent*) {
    const Tokens& t = look();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(QPen(hasFocus() ? t.teal : t.entryEdge, 1));
    painter.setBrush(t.panel2);
    painter.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 5, 5);
    for (int i = 0; i < choices_.size(); ++i) {
        const bool on = i == current_;
        if (on) {
            painter.setPen(QPen(t.entryEdge, 1));
            painter.setBrush(t.paper);
            painter.drawRoundedRect(QRectF(part(i)).adjusted(0.5, 0.5, -0.5, -0.5), 5, 5);
        }
        painter.setFont(sized(12, on ? QFont::DemiBold : QFont::Medium));
        painter.setPen(on ? t.ink : t.ink2);
        painter.drawText(part(i), Qt::AlignCenter, choices_[i]);
    }
}

void SegmentedSwitch::mousePressEvent(QMouseEvent* event) {
    for (int i = 0; i < choices_.size(); ++i)
        if (part(i).contains(event->pos())) choose(i);
}

void SegmentedSwitch::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Left) return choose(current_ - 1);
    if (event->key() == Qt::Key_Right) return choose(current_ + 1);
    QWidget::keyPressEvent(event);
}

}  // namespace jollyrow
