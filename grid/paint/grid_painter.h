// SPDX-License-Identifier: MIT
#pragma once
// Paints the records of the grid: rows, cells, gutter, selection, hover. Const over what it is given; touches visible
// cells only and keeps nothing between frames but its fonts and buffers.

#include <QImage>
#include <QPainter>

#include <map>
#include <string>
#include <vector>

#include "grid/faces/cell_face.h"
#include "grid/paint/cell_looks.h"
#include "grid/paint/glyph_text.h"
#include "grid/paint/grid_frame.h"
#include "grid/paint/group_painter.h"

namespace jollyrow {

class GridPainter final {
  public:
    explicit GridPainter(const QFont& font);
    /// Paints the part of the body inside `dirty`.
    void paint(QPainter& painter, const GridFrame& frame, const QRect& dirty);
    const GlyphText& text() const { return text_; }
    const GroupPainter& groups() const { return groups_; }

  private:
    struct Columns {
        ColumnRange range;
        QRect clip;
        std::size_t count() const { return static_cast<std::size_t>(range.end - range.begin); }
        std::size_t at(int column) const { return static_cast<std::size_t>(column - range.begin); }
    };
    using Rows = std::vector<PinnedLine>;
    void paintRows(QPainter& painter, const GridFrame& frame, const Rows& rows, const QRect& clip);
    void paintBackgrounds(QPainter& painter, const GridFrame& frame, const Rows& rows);
    void paintCells(QPainter& painter, const GridFrame& frame, const Rows& rows, const Columns& columns);
    void paintMerged(QPainter& painter, const GridFrame& frame, const Rows& rows, int column);
    void paintTierLines(QPainter& painter, const GridFrame& frame, const Rows& rows, const Columns& columns);
    void takeLooks(QPainter& painter, const GridFrame& frame, const Rows& rows, const Columns& columns);
    void takeLooks(QPainter& painter, const GridFrame& frame, const PinnedLine& row, const Columns& columns,
                   CellLook* looks);
    /// Over the background that its look gives it.
    void paintCell(QPainter& painter, const GridFrame& frame, CellPlace place, const QRect& rect, const CellLook& look);
    static void strike(QPainter& painter, const FaceCell& cell, const GlyphText& glyphs);
    void paintGutter(QPainter& painter, const GridFrame& frame, const PinnedLine& row);
    void paintColumnTints(QPainter& painter, const GridFrame& frame, const Columns& columns);
    void paintPinnedEdge(QPainter& painter, const GridFrame& frame);
    void paintMessage(QPainter& painter, const GridFrame& frame);

    void paintSticky(QPainter& painter, const GridFrame& frame, const QRect& clip);

    /// A cell in the look that styles give it.
    void paintBanner(QPainter& painter, const GridFrame& frame, const PinnedLine& row, const PlannedBanner& banner,
                     const QRect& clip);
    void paintStyled(QPainter& painter, const GridFrame& frame, const FaceCell& cell, const CellLook& look);
    /// Texts of one weight in up to four inks, collected over the cells in sight.
    struct StyledTexts {
        GlyphText glyphs;
        std::array<QColor, kTextTones> inks{};
        std::size_t used = 0;
    };
    StyledTexts& styledTexts(const CellLook& look);
    /// The place of an ink; what was collected is drawn first when there is none left.
    static TextTone toneOf(StyledTexts& texts, QPainter& painter, const QColor& ink);
    void flushStyled(QPainter& painter);

    GlyphText text_;
    std::map<std::pair<LineWeight, bool>, StyledTexts> styled_;  ///< by weight and italic, made when first asked for
    GroupPainter groups_;
    LookCache looks_;
    bool coversTierLines_ = false;     ///< by backgrounds of merged cells
    std::vector<CellLook> cellLooks_;  ///< of the zone at work, by row and column in sight; empty without styles
    QImage tierLine_;                  ///< one pixel wide
    CellText cell_;
    std::string mergedText_, bannerText_;
};

}  // namespace jollyrow
