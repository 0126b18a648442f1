// SPDX-License-Identifier: MIT
#include "grid/faces/parts/swatch_part.h"

namespace jollyrow {
namespace {
constexpr qreal kSwatch = 12;
constexpr qreal kSwatchGap = 6;
}  // namespace

QSizeF SwatchPart::size(const PartLook& look) const {
    const GlyphText& glyphs = look.text();
    return {kSwatch + kSwatchGap + glyphs.width(look.content.text), glyphs.lineHeight()};
}

void SwatchPart::paint(QPainter& painter, const PartLook& look, const QRectF& rect) const {
    const Tokens& t = look.tokens;
    const QRectF box(rect.left() + 0.5, rect.center().y() - kSwatch / 2 + 0.5, kSwatch - 1, kSwatch - 1);
    const bool isColour = jollyrow::isColour(look.content.text);
    painter.setRenderHint(QPainter::Antialiasing, true);
    painter.setPen(QPen(t.entryEdge, 1));
    painter.setBrush(isColour ? QBrush(QColor(QString::fromStdString(look.content.text))) : QBrush(Qt::NoBrush));
    painter.drawRoundedRect(box, 2.5, 2.5);
    if (!isColour) painter.drawLine(box.bottomLeft(), box.topRight());
    painter.setRenderHint(QPainter::Antialiasing, false);
    drawText(painter, look.text(), look.content.text, rect.adjusted(kSwatch + kSwatchGap, 0, 0, 0),
             GlyphText::Align::Left, textInk(look.ink(), t, t.ink));
}

}  // namespace jollyrow
