// SPDX-License-Identifier: MIT
#pragma once
// RatingPart: a whole number as that many filled marks of `most`. A number that is none of these is written.

#include "grid/faces/parts/part_face.h"

namespace jollyrow {

class RatingPart final : public PartFace {
  public:
    QSizeF size(const PartLook& look) const override;
    void paint(QPainter& painter, const PartLook& look, const QRectF& rect) const override;
};

}  // namespace jollyrow
