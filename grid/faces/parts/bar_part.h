// SPDX-License-Identifier: MIT
#pragma once
// BarPart: numbers as lengths between two ends that are the same for all records: one from the zero line, several one
// behind the other, or shares of their sum. What lies past an end is cut there and marked by an arrow head.

#include "grid/faces/parts/part_face.h"

namespace jollyrow {

class BarPart final : public PartFace {
  public:
    QSizeF size(const PartLook& look) const override;
    bool shrinks() const override { return true; }
    void paint(QPainter& painter, const PartLook& look, const QRectF& rect) const override;
    /// Where lengths are drawn within the part; the number stands beside. The axis in the footer uses the same.
    static QRectF lengths(const PartLook& look, const QRectF& rect);
};

/// The place of a number between the ends; past them, the nearer end. Requires: ends.low <= ends.high.
qreal placeOf(double number, const Extent& ends, const QRectF& lengths);

}  // namespace jollyrow
