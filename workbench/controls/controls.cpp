// SPDX-License-Identifier: MIT
#include "workbench/controls/controls.h"

#include <QAbstractItemView>
#include <QKeyEvent>
#include <QPainter>
#include <QToolButton>
#include <QWheelEvent>

#include <algorithm>

#include "workbench/app/icons.h"
#include "workbench/app/look.h"

namespace jollyrow {

void CheckBox::paintEvent(QPaintEvent*) {
    const Tokens& t = look();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const int side = scaled(15);
    const QRectF box(1, (height() - side) / 2.0, side, side);
    painter.setPen(QPen(isChecked() || hasFocus() ? t.teal : t.entryEdge, 1.2));
    painter.setBrush(isChecked() ? t.teal : t.paper);
    painter.drawRoundedRect(box, 3.5, 3.5);
    if (isChecked()) drawIcon(painter, Icon::Tick, box.adjusted(1.5, 1.5, -1.5, -1.5), t.onTeal);
    const int words = side + 8;
    if (hasFocus()) {
        painter.setPen(QPen(t.tealPaleEdge, 1));
        painter.setBrush(Qt::NoBrush);
        painter.drawRoundedRect(box.adjusted(-1, -1, 1, 1), 4, 4);
    }
    painter.setPen(isEnabled() ? t.ink : t.disabledIcon);
    painter.setFont(font());
    painter.drawText(QRectF(words, 0, width() - words, height()), Qt::AlignLeft | Qt::AlignVCenter, text());
}

PickBox::PickBox(QWidget* parent) : QComboBox(parent) {
    setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    setMinimumContentsLength(4);
    setMaxVisibleItems(14);
}

void PickBox::showPopup() {
    // As wide as its longest entry, but not wider than can be read.
    view()->setMinimumWidth(std::min(420, view()->sizeHintForColumn(0) + 30));
    QComboBox::showPopup();
}

void PickBox::paintEvent(QPaintEvent* event) {
    QComboBox::paintEvent(event);
    QPainter painter(this);
    drawIcon(painter, Icon::ChevronDown, QRectF(width() - 20, height() / 2.0 - 6.5, 13, 13), look().ink2);
}

void PickBox::wheelEvent(QWheelEvent* event) { event->ignore(); }

void PickBox::keyPressEvent(QKeyEvent* event) {
    const bool moves = event->key() == Qt::Key_Down || event->key() == Qt::Key_Up;
    if (moves && currentIndex() < 0) return showPopup();
    QComboBox::keyPressEvent(event);
}

void Card::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(QPen(look().hair, 1));
    painter.setBrush(look().paper);
    painter.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6);
}

QToolButton* cardButton(Icon icon, const QString& name, bool enabled, QWidget* card) {
    auto* tool = new QToolButton(card);
    tool->setIcon(makeIcon(icon, enabled ? look().ink2 : look().disabledIcon, 14));
    tool->setToolTip(name);
    tool->setAccessibleName(name);
    tool->setEnabled(enabled);
    return tool;
}

}  // namespace jollyrow
