// SPDX-License-Identifier: MIT
#include "grid/faces/composed_face.h"

#include "grid/faces/parts/bar_part.h"

#include <cmath>

namespace jollyrow {

PartFonts& ComposedFace::fontsFor(const QFont& font) const {
    if (!fonts_ || fonts_->font() != font) fonts_ = std::make_unique<PartFonts>(font);
    return *fonts_;
}

PartLook ComposedFace::lookOf(const PlannedColumn& column, const CellText& text, std::size_t part, PartFonts& fonts,
                              const Tokens& tokens, PictureShelf* pictures) const {
    const PlannedPart& planned = column.face->parts[part];
    // A part alone in its cell stands as the column does.
    const Alignment own = planned.design.alignment != Alignment::Automatic ? planned.design.alignment
                          : part == 0                                      ? column.alignment
                                                                           : Alignment::Left;
    const GlyphText::Align align = own == Alignment::Right    ? GlyphText::Align::Right
                                   : own == Alignment::Center ? GlyphText::Align::Center
                                                              : GlyphText::Align::Left;
    return {planned, text.face.parts[part], fonts, tokens, align, text.face.row, pictures};
}

void ComposedFace::measureParts(PartFonts& fonts, const PlannedColumn& column, const CellText& text) const {
    layout_.measure(*column.face, text.face, [&](std::size_t part) -> FaceLayout::Needs {
        const PartFace& face = partFaceOf(column.face->parts[part].design.kind);
        return {face.size(lookOf(column, text, part, fonts, tokens(Theme::Light))), face.shrinks()};
    });
}

const std::vector<QRectF>& ComposedFace::arranged(const QFont& font, const FaceCell& cell) const {
    measureParts(fontsFor(font), cell.column, cell.text);
    return layout_.arrange(*cell.column.face, cell.text.face, cell.room());
}

std::optional<std::size_t> ComposedFace::partAt(const QFont& font, const FaceCell& cell, QPoint position) const {
    if (!cell.text.isComposed || cell.text.isEmpty || cell.text.isPending) return std::nullopt;
    arranged(font, cell);
    return layout_.partAt(*cell.column.face, position);
}

void ComposedFace::paint(const FaceCanvas& canvas, const FaceCell& cell) const {
    if (!cell.text.isComposed) return TextFace::paint(canvas, cell);
    PartFonts& fonts = fontsFor(canvas.glyphs.font());
    const std::vector<QRectF>& rects = arranged(canvas.glyphs.font(), cell);
    for (std::size_t part = 0; part < rects.size(); ++part) {
        const FacePartKind kind = cell.column.face->parts[part].design.kind;
        if (!cell.text.face.parts[part].isShown || rects[part].isEmpty() || holdsParts(kind)) continue;
        partFaceOf(kind).paint(
            canvas.painter, lookOf(cell.column, cell.text, part, fonts, canvas.tokens, canvas.pictures), rects[part]);
    }
}

std::optional<int> ComposedFace::measure(const GlyphText& glyphs, const PlannedColumn& column,
                                         const CellText& text) const {
    if (!text.isComposed) return std::nullopt;
    measureParts(fontsFor(glyphs.font()), column, text);
    return static_cast<int>(std::ceil(layout_.needed().width()));
}

std::optional<std::size_t> ComposedFace::stackedAt(const FaceCell& cell, std::size_t part, QPoint position) const {
    const PlannedPart& planned = cell.column.face->parts[part];
    const bool isStacked = planned.design.kind == FacePartKind::Bar && (planned.fields.size() > 1 || planned.isList);
    if (!isStacked || !fonts_ || cell.text.face.parts[part].isMisfit) return std::nullopt;
    const PartLook look = lookOf(cell.column, cell.text, part, *fonts_, tokens(Theme::Light));
    for (const BarStretch& stretch : BarPart::stretches(look, BarPart::lengths(look, rects()[part])))
        if (position.x() >= stretch.rect.left() && position.x() < stretch.rect.right()) return stretch.index;
    return std::nullopt;
}

}  // namespace jollyrow
