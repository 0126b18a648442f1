// SPDX-License-Identifier: MIT
#pragma once
// CellLook: the colours that styles come to in the theme at hand. Texts stand out from their background by at
// least 4.5:1 (WCAG 2, 1.4.3): inks are made lighter or darker where they must be.

#include <QColor>
#include <QFont>

#include <vector>

#include "core/design/planned_style.h"
#include "grid/layout/column_layout.h"
#include "grid/paint/glyph_text.h"
#include "grid/paint/grid_frame.h"

namespace jollyrow {

struct CellLook {
    QColor background;  ///< invalid: the record's
    QColor ink;
    MarkShape icon = MarkShape::None;
    QColor iconInk;
    LineWeight weight = LineWeight::Theme;
    bool italic = false;
    bool strike = false;
    bool isStyled = false;
    bool isPlain() const { return !isStyled; }
    QFont::Weight fontWeight() const {
        return weight == LineWeight::Bold ? QFont::Bold : weight == LineWeight::Medium ? QFont::Medium : QFont::Normal;
    }
};

/// What a style comes to on something of this colour, where texts are of another.
CellLook lookOf(const CellStyle& style, const QColor& behind, const QColor& ink, const Tokens& tokens);
/// The looks of one frame: its cells have few. Styles are told apart by their addresses, so it is for one frame only.
class LookCache final {
  public:
    void clear() { kept_.clear(); }
    const CellLook& of(const CellStyle& style, const QColor& behind, const Tokens& tokens);

  private:
    static constexpr std::size_t kMostKept = 32;
    struct Kept {
        CellStyle style;
        QRgb behind = 0;
        CellLook look;
    };
    std::vector<Kept> kept_;
    CellLook last_;
};
/// A selected record keeps its selection's colour; texts keep theirs.
CellLook cellLook(const GridFrame& frame, CellPlace place, LookCache& cache);
/// A style's background: names of the theme are pale; a colour of the builder's is for light, in the dark it tints.
QColor styleBackground(const std::string& name, const Tokens& tokens);
/// Between the ends of a scale, by way of its middle where it has one.
QColor scaleBackground(const StyleDesign& style, double part, const Tokens& tokens);

/// The style's icon at the left of a cell; what is left for the value.
QRect paintIcon(QPainter& painter, const CellLook& look, const QRect& cell);

}  // namespace jollyrow
