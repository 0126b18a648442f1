// SPDX-License-Identifier: MIT
#pragma once
// SwatchPart: a colour that is kept as a text like #1e7f78, as a small square before that text. A text that is no such
// colour has an empty, crossed square.

#include "grid/faces/parts/part_face.h"

namespace jollyrow {

class SwatchPart final : public PartFace {
  public:
    QSizeF size(const PartLook& look) const override;
    bool shrinks() const override { return true; }
    void paint(QPainter& painter, const PartLook& look, const QRectF& rect) const override;
};

}  // namespace jollyrow
