// SPDX-License-Identifier: MIT
#pragma once
// PicturePart: a picture fitted into its place or filling it. While it is read, its place is pale; what is no picture
// has a torn frame.

#include "grid/faces/parts/part_face.h"

namespace jollyrow {

class PicturePart final : public PartFace {
  public:
    QSizeF size(const PartLook& look) const override;
    bool shrinks() const override { return true; }
    void paint(QPainter& painter, const PartLook& look, const QRectF& rect) const override;
};

}  // namespace jollyrow
