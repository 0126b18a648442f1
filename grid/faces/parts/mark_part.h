// SPDX-License-Identifier: MIT
#pragma once
// MarkPart: a small shape in a colour, each told from the others without the colour.

#include "grid/faces/parts/part_face.h"

namespace jollyrow {

class MarkPart final : public PartFace {
  public:
    QSizeF size(const PartLook& look) const override;
    void paint(QPainter& painter, const PartLook& look, const QRectF& rect) const override;
};

/// The same from a picture kept of it, at half the cost of a text: for cells. On whole pixels.
void paintMark(QPainter& painter, MarkShape shape, QPointF centre, qreal side, const QColor& colour,
               const QColor& onColour);

/// Within a box of `side` pixels about the centre. Also for choosing one.
void drawMark(QPainter& painter, MarkShape shape, QPointF centre, qreal side, const QColor& colour,
              const QColor& onColour);

}  // namespace jollyrow
