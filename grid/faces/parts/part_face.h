// SPDX-License-Identifier: MIT
#pragma once
// PartFace: how one kind of part of a composed face is measured and painted. One file a kind, each with a line in
// part_faces.cpp.

#include <QPainter>

#include <map>
#include <memory>

#include "core/design/face_reader.h"
#include "grid/paint/glyph_text.h"
#include "grid/paint/tokens.h"

namespace jollyrow {

class PictureShelf;

/// The grid's font in the sizes and weights that parts ask for; each made once. Confined to the window's thread.
class PartFonts final {
  public:
    explicit PartFonts(const QFont& font) : font_(font) {}
    const QFont& font() const { return font_; }
    GlyphText& text(int larger, LineWeight weight);

  private:
    QFont font_;
    std::map<std::pair<int, LineWeight>, std::unique_ptr<GlyphText>> made_;
};

/// One part of one cell. Borrows; valid for the call.
struct PartLook {
    const PlannedPart& part;
    const PartContent& content;
    PartFonts& fonts;
    const Tokens& tokens;
    GlyphText::Align align = GlyphText::Align::Left;
    SourceRow row{};
    PictureShelf* pictures = nullptr;  ///< null while measuring

    const FaceRule* rule() const {
        return content.rule < 0 ? nullptr : &part.design.rules[static_cast<std::size_t>(content.rule)];
    }
    LineWeight weight() const {
        const FaceRule* own = rule();
        return own && own->weight != LineWeight::Theme ? own->weight : part.design.weight;
    }
    /// The colour that the part or its rule names; "" for the theme's.
    const std::string& ink() const {
        const FaceRule* own = rule();
        return own && !own->colour.empty() ? own->colour : part.design.colour;
    }
    GlyphText& text() const { return fonts.text(part.design.larger, weight()); }
};

/// Used on the window's thread only; keeps nothing of a cell.
class PartFace {
  public:
    virtual ~PartFace() = default;
    /// Pixels it would take.
    virtual QSizeF size(const PartLook& look) const = 0;
    /// May it be given less width than that? What cannot is cut.
    virtual bool shrinks() const { return false; }
    virtual void paint(QPainter& painter, const PartLook& look, const QRectF& rect) const = 0;
};

/// Lives as long as the program. Requires: a kind that holds no parts.
const PartFace& partFaceOf(FacePartKind kind);

/// A colour for text: as named, at least 4.5:1 from the paper (WCAG 2, 1.4.3): lighter or darker where it must be.
QColor textInk(const std::string& name, const Tokens& tokens, const QColor& usual);
/// A colour for shapes and areas, at least 3:1 from the paper (WCAG 2, 1.4.11).
QColor shapeInk(const std::string& name, const Tokens& tokens, const QColor& usual);
/// One text in one colour, drawn at once.
void drawText(QPainter& painter, GlyphText& glyphs, std::string_view text, const QRectF& rect, GlyphText::Align align,
              const QColor& colour);

}  // namespace jollyrow
