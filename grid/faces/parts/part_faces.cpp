// SPDX-License-Identifier: MIT
// The registry of parts: one line a kind. And what they have in common: fonts, inks.
#include "grid/faces/parts/bar_part.h"
#include "grid/faces/parts/mark_part.h"
#include "grid/faces/parts/part_face.h"
#include "grid/faces/parts/picture_part.h"
#include "grid/faces/parts/rating_part.h"
#include "grid/faces/parts/swatch_part.h"
#include "grid/faces/parts/text_part.h"
#include "grid/faces/parts/trend_part.h"
#include "grid/paint/contrast.h"

namespace jollyrow {

GlyphText& PartFonts::text(int larger, LineWeight weight) {
    auto& made = made_[{larger, weight}];
    if (!made) {
        const QFont::Weight strength = weight == LineWeight::Bold     ? QFont::Bold
                                       : weight == LineWeight::Medium ? QFont::Medium
                                                                      : QFont::Normal;
        made = std::make_unique<GlyphText>(weighted(font_, strength, -larger));
    }
    return *made;
}

const PartFace& partFaceOf(FacePartKind kind) {
    static const TextPart text;
    static const LinkPart link;
    static const ButtonPart button;
    static const MarkPart mark;
    static const BarPart bar;
    static const TrendPart trend;
    static const RatingPart rating;
    static const SwatchPart swatch;
    static const PicturePart picture;
    static const SpacerPart spacer;
    switch (kind) {
        case FacePartKind::Link: return link;
        case FacePartKind::Button: return button;
        case FacePartKind::Mark: return mark;
        case FacePartKind::Bar: return bar;
        case FacePartKind::Trend: return trend;
        case FacePartKind::Rating: return rating;
        case FacePartKind::Swatch: return swatch;
        case FacePartKind::Picture: return picture;
        case FacePartKind::Spacer: return spacer;
        case FacePartKind::Text:
        case FacePartKind::Field:
        case FacePartKind::Row:
        case FacePartKind::Column:
        case FacePartKind::Stack: break;
    }
    return text;
}

QColor textInk(const std::string& name, const Tokens& t, const QColor& usual) {
    if (name.empty()) return usual;
    if (name[0] == '#') return legible(QColor(QString::fromStdString(name)), t.paper);
    return name == "quiet"   ? t.ink2
           : name == "teal"  ? t.tealText
           : name == "buoy"  ? t.buoyText
           : name == "brass" ? t.brassText
           : name == "blue"  ? legible(t.blue, t.paper)
                             : t.ink;
}

QColor shapeInk(const std::string& name, const Tokens& t, const QColor& usual) {
    if (name.empty()) return usual;
    if (name[0] == '#') return legible(QColor(QString::fromStdString(name)), t.paper, 3);
    return name == "quiet"   ? t.ink3
           : name == "teal"  ? t.teal
           : name == "buoy"  ? t.buoy
           : name == "brass" ? t.brass
           : name == "blue"  ? t.blue
                             : t.ink;
}

void drawText(QPainter& painter, GlyphText& glyphs, std::string_view text, const QRectF& rect, GlyphText::Align align,
              const QColor& colour) {
    glyphs.add(text, rect, align, TextTone::Ink);
    glyphs.flush(painter, {colour, colour, colour, colour});
}

}  // namespace jollyrow
