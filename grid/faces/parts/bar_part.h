// SPDX-License-Identifier: MIT
#pragma once
// BarPart: numbers as lengths between two ends that are the same for all records: one from the zero line, several one
// behind the other, or shares of their sum. What lies past an end is cut there and marked by an arrow head.

#include <vector>

#include "grid/faces/parts/part_face.h"

namespace jollyrow {

/// One part of a stacked bar as it is drawn.
struct BarStretch {
    QRectF rect;
    std::size_t index = 0;  ///< of its number
};

/// The colours of the parts of a stacked bar, in turn.
QColor stackedInk(std::size_t index, const Tokens& tokens);

class BarPart final : public PartFace {
  public:
    QSizeF size(const PartLook& look) const override;
    bool shrinks() const override { return true; }
    void paint(QPainter& painter, const PartLook& look, const QRectF& rect) const override;
    /// Where lengths are drawn within the part; the number stands beside. The axis in the footer uses the same.
    static QRectF lengths(const PartLook& look, const QRectF& rect);
    /// Its parts within those lengths, in the order of its numbers; gaps have none.
    static std::vector<BarStretch> stretches(const PartLook& look, const QRectF& lengths);
};

/// The place of a number between the ends; past them, the nearer end. Requires: ends.low <= ends.high.
qreal placeOf(double number, const Extent& ends, const QRectF& lengths);

}  // namespace jollyrow
