// SPDX-License-Identifier: MIT
#pragma once
// What floats over the grid: a card and its soft shadow.

#include <QPainter>

#include "grid/paint/tokens.h"

namespace jollyrow {

/// The shadow alone, reaching `reach` pixels beyond the card.
inline void paintCardShadow(QPainter& painter, const QRectF& card, int reach, qreal radius, const Tokens& look) {
    painter.setPen(Qt::NoPen);
    painter.setBrush(QColor(40, 32, 16, look.dark ? 22 : 8));
    for (int i = reach; i > 0; i -= 2)
        painter.drawRoundedRect(card.adjusted(-i, -i / 3.0 + 2, i, i), radius + i, radius + i);
}

inline void paintCard(QPainter& painter, const QRectF& card, int reach, const Tokens& look) {
    constexpr qreal kRadius = 6;
    painter.setRenderHint(QPainter::Antialiasing);
    paintCardShadow(painter, card, reach, kRadius, look);
    painter.setPen(QPen(look.popEdge, 1));
    painter.setBrush(look.page);
    painter.drawRoundedRect(card, kRadius, kRadius);
}

}  // namespace jollyrow
