// SPDX-License-Identifier: MIT
#pragma once
// Texts of a composed face: a message or a field, a link, a button; and mere room.

#include "grid/faces/parts/part_face.h"

namespace jollyrow {

class TextPart : public PartFace {
  public:
    QSizeF size(const PartLook& look) const override;
    bool shrinks() const override { return true; }
    void paint(QPainter& painter, const PartLook& look, const QRectF& rect) const override;
};

class LinkPart final : public TextPart {
  public:
    void paint(QPainter& painter, const PartLook& look, const QRectF& rect) const override;
};

class ButtonPart final : public PartFace {
  public:
    QSizeF size(const PartLook& look) const override;
    void paint(QPainter& painter, const PartLook& look, const QRectF& rect) const override;
};

class SpacerPart final : public PartFace {
  public:
    QSizeF size(const PartLook&) const override { return {6, 0}; }
    void paint(QPainter&, const PartLook&, const QRectF&) const override {}
};

}  // namespace jollyrow
