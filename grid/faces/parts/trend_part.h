// SPDX-License-Identifier: MIT
#pragma once
// TrendPart: a list of numbers as a small line, area or row of columns, between its own least and greatest. Gaps stay
// gaps; the last value has a mark.

#include "grid/faces/parts/part_face.h"

namespace jollyrow {

class TrendPart final : public PartFace {
  public:
    QSizeF size(const PartLook& look) const override;
    bool shrinks() const override { return true; }
    void paint(QPainter& painter, const PartLook& look, const QRectF& rect) const override;
};

}  // namespace jollyrow
