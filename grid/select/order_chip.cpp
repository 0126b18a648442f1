// SPDX-License-Identifier: MIT
#include "grid/select/order_chip.h"

#include "grid/paint/grouped.h"
#include "grid/paint/tokens.h"

namespace jollyrow {

OrderChip::OrderChip(QWidget* viewport, const Tokens& look) : QToolButton(viewport) {
    setObjectName(QStringLiteral("orderChip"));
    setCursor(Qt::PointingHandCursor);
    setToolTip(tr("Edited records stay where they are until they are put back in order"));
    setStyleSheet(
        QStringLiteral("QToolButton{border:1px solid %1;border-radius:13px;background:%2;color:%3;padding:4px "
                       "14px}QToolButton:hover,QToolButton:focus{border-color:%4;background:%5}")
            .arg(look.popEdge.name(), look.brassPale.name(), look.ink.name(), look.brass.name(), look.paper.name()));
    hide();
}

void OrderChip::showCount(std::size_t records, const QRect& room) {
    setVisible(records != 0);
    if (records == 0) return;
    setText(records == 1 ? tr("1 record is out of place  ·  Put it in order")
                         : tr("%1 records are out of place  ·  Put them in order").arg(grouped(records)));
    setAccessibleName(text());
    adjustSize();
    move(room.center().x() - width() / 2, room.bottom() - height() - 8);
    raise();
}

}  // namespace jollyrow
