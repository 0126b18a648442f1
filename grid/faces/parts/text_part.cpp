// SPDX-License-Identifier: MIT
#include "grid/faces/parts/text_part.h"

#include <algorithm>

namespace jollyrow {

QSizeF TextPart::size(const PartLook& look) const {
    const GlyphText& glyphs = look.text();
    const int lines = look.part.design.lines;
    return {glyphs.width(look.content.text), glyphs.lineHeight() * std::max(1, lines)};
}

void TextPart::paint(QPainter& painter, const PartLook& look, const QRectF& rect) const {
    const QColor colour =
        look.content.isMisfit ? look.tokens.buoyText : textInk(look.ink(), look.tokens, look.tokens.ink);
    if (look.part.design.lines == 1) return drawText(painter, look.text(), look.content.text, rect, look.align, colour);
    GlyphText& glyphs = look.text();
    glyphs.addWrapped(look.content.text, rect, look.align, TextTone::Ink);
    glyphs.flush(painter, {colour, colour, colour, colour});
}

void LinkPart::paint(QPainter& painter, const PartLook& look, const QRectF& rect) const {
    GlyphText& glyphs = look.text();
    const QColor colour = textInk(look.ink(), look.tokens, look.tokens.tealText);
    drawText(painter, glyphs, look.content.text, rect, look.align, colour);
    const qreal width = std::min(rect.width(), glyphs.width(look.content.text));
    const qreal left = look.align == GlyphText::Align::Right    ? rect.right() - width
                       : look.align == GlyphText::Align::Center ? rect.center().x() - width / 2
                                                                : rect.left();
    QColor line = colour;
    line.setAlphaF(0.5F);
    painter.fillRect(QRectF(left, rect.center().y() + glyphs.lineHeight() / 2 - 2, width, 1), line);
}

QSizeF ButtonPart::size(const PartLook& look) const {
    const GlyphText& glyphs = look.text();
    return {glyphs.width(look.content.text) + 16, glyphs.lineHeight() + 4};
}

void ButtonPart::paint(QPainter& painter, const PartLook& look, const QRectF& rect) const {
    const QSizeF wanted = size(look);
    QRectF box(0, 0, std::min(rect.width(), wanted.width()) - 1, std::min(rect.height() - 2, wanted.height()));
    box.moveCenter(rect.center());
    if (look.align == GlyphText::Align::Left) box.moveLeft(rect.left() + 0.5);
    if (look.align == GlyphText::Align::Right) box.moveRight(rect.right() - 0.5);
    painter.setRenderHint(QPainter::Antialiasing, true);
    painter.setPen(QPen(look.tokens.strongEdge, 1));
    painter.setBrush(look.tokens.panel);
    painter.drawRoundedRect(box, 4, 4);
    painter.setRenderHint(QPainter::Antialiasing, false);
    drawText(painter, look.text(), look.content.text, box.adjusted(7, 0, -7, 0), GlyphText::Align::Center,
             textInk(look.ink(), look.tokens, look.tokens.ink));
}

}  // namespace jollyrow
