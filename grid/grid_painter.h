// SPDX-License-Identifier: MIT
#pragma once
// Paints the records of the grid: rows, cells, gutter, selection, hover. Const over what it is given; touches visible
// cells only and keeps nothing between frames but its fonts and buffers.

#include <QPainter>
#include <QPixmap>

#include <optional>
#include <vector>

#include "core/design/plan.h"
#include "grid/column_layout.h"
#include "grid/glyph_text.h"
#include "grid/line_source.h"
#include "grid/scroll_map.h"
#include "grid/selection.h"
#include "grid/tokens.h"

namespace jollyrow {

/// Everything a frame depends on. Borrows; valid for the call.
struct GridFrame {
    const Tokens& tokens;
    const ColumnLayout& columns;
    const ScrollMap& scroll;
    const LineSource* lines = nullptr;  ///< null before anything is bound
    const ViewPlan& plan;
    const Selection& selection;
    const std::vector<int>& decimalInsets;  ///< by column: room right of the decimal sign in Real columns
    QSize viewport;
    int headerHeight = 34;
    int rowHeight = 26;
    int scrollX = 0;
    std::int64_t scrollY = 0;
    bool stripes = true;
    bool hairlines = true;
    bool hasFocus = false;
    std::optional<CellPlace> hover;
    std::optional<int> designColumn;  ///< selected for design: tinted brass
    QString message;                  ///< shown when there are no lines

    /// Where a cell stands in the viewport.
    QRect cellRect(CellPlace place) const;
};

class GridPainter final {
  public:
    explicit GridPainter(const QFont& font);
    /// Paints the part of the body inside `dirty`.
    void paint(QPainter& painter, const GridFrame& frame, const QRect& dirty);
    const GlyphText& text() const { return text_; }

  private:
    struct Columns {
        int first, end;
        QRect clip;
    };
    void paintBackgrounds(QPainter& painter, const GridFrame& frame, std::int64_t first, std::int64_t end);
    void paintCells(QPainter& painter, const GridFrame& frame, std::int64_t first, std::int64_t end,
                    const Columns& columns);
    void paintCell(QPainter& painter, const GridFrame& frame, CellPlace place, const QRect& rect);
    void paintGutter(QPainter& painter, const GridFrame& frame, std::int64_t line, int y);
    void paintColumnTints(QPainter& painter, const GridFrame& frame, const Columns& columns);
    void paintPinnedEdge(QPainter& painter, const GridFrame& frame);
    void paintMessage(QPainter& painter, const GridFrame& frame);

    const QPixmap& checkMark(const Tokens& tokens, bool checked, qreal pixelRatio);

    GlyphText text_;
    CellText cell_;
    QPixmap checks_[2];  ///< off, on; drawn once a theme and pixel ratio
    const Tokens* checksLook_ = nullptr;
};

}  // namespace jollyrow
