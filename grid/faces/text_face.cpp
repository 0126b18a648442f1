// SPDX-License-Identifier: MIT
#include "grid/faces/text_face.h"

#include <algorithm>

namespace jollyrow {

void TextFace::paint(const FaceCanvas& canvas, const FaceCell& cell) const {
    const std::string& text = cell.text.text;
    const GlyphText::Align align = cell.align();
    const QRectF room = cell.room();
    if (cell.column.design.wrap) return canvas.glyphs.addWrapped(text, room, align, cell.tone);
    if (cell.column.format.type != Type::Real || align != GlyphText::Align::Right || cell.text.isMisfit)
        return canvas.glyphs.add(text, room, align, cell.tone);
    // All decimal signs of the column on one line: what stands right of it gets the widest one's room.
    const std::size_t point = text.find('.');
    const std::string_view fraction =
        point == std::string::npos ? std::string_view{} : std::string_view(text).substr(point);
    const qreal inset = std::clamp<qreal>(cell.decimalInset - canvas.glyphs.width(fraction), 0, room.width() / 2);
    canvas.glyphs.add(text, room.adjusted(0, 0, -inset, 0), align, cell.tone);
}

}  // namespace jollyrow
