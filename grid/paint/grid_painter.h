// SPDX-License-Identifier: MIT
#pragma once
// Paints the records of the grid: rows, cells, gutter, selection, hover. Const over what it is given; touches visible
// cells only and keeps nothing between frames but its fonts and buffers.

#include <QPainter>
#include <QPixmap>

#include <algorithm>
#include <optional>
#include <set>
#include <vector>

#include "core/design/find.h"
#include "core/design/plan.h"
#include "grid/layout/column_layout.h"
#include "grid/layout/line_places.h"
#include "grid/layout/line_source.h"
#include "grid/paint/glyph_text.h"
#include "grid/paint/group_painter.h"
#include "grid/paint/tokens.h"
#include "grid/select/selection.h"

namespace jollyrow {

/// A record that stays at an edge, and where.
struct PinnedLine {
    std::int64_t line = 0;
    int y = 0;
    int height = 26;
};

/// One row of the totals at the foot of the grid, and where.
struct TotalRow {
    TotalScope scope = TotalScope::Filtered;
    QString caption;
    int y = 0;
    int height = 30;
};

/// Everything a frame depends on. Borrows; valid for the call.
struct GridFrame {
    const Tokens& tokens;
    const ColumnLayout& columns;
    const LinePlaces& places;
    const LineSource* lines = nullptr;  ///< null before anything is bound
    const ViewPlan& plan;
    const Selection& selection;
    const std::vector<int>& decimalInsets;  ///< by column: room right of the decimal sign in Real columns
    QSize viewport;
    int headerHeight = 34;
    int bodyTop = 34;      ///< below headings and records pinned at the top
    int bodyBottom = 400;  ///< above records pinned at the bottom
    int scrollX = 0;
    bool stripes = true;
    bool hairlines = true;
    bool hasFocus = false;
    std::optional<CellPlace> hover = std::nullopt;
    std::vector<int> designColumns = {};    ///< selected for design: tinted brass
    std::vector<int> selectedColumns = {};  ///< selected by the form's user
    std::vector<PinnedLine> pinnedTop = {}, pinnedBottom = {};
    const GroupedLines* grouped = nullptr;  ///< null without groups
    std::vector<PinnedLine> sticky = {};    ///< lines of open groups that stay at the top, outermost first
    std::vector<TotalRow> totals = {};
    std::vector<EvaluatedCell> selectedFigures = {};  ///< of the selected records, by summary
    int groupIndent = 14;                             ///< pixels a level
    std::string totalColour = {};                     ///< behind totals; empty: the theme's
    LineWeight totalWeight = LineWeight::Theme;
    std::optional<std::uint32_t> dropOn = std::nullopt;  ///< a group that records are being dropped on
    const std::set<SourceRow>* outOfPlace = nullptr;     ///< records marked in the gutter; may be null
    const FindQuery* find = nullptr;                     ///< cells it marks are tinted; may be null
    QString message = {};                                ///< shown when there are no lines

    /// Where a cell stands in the viewport, among the scrolled records.
    QRect cellRect(CellPlace place) const;
    /// The part of a record's height that a column takes.
    QRect partOf(int column, int y, int height) const;
    bool isDesigned(int column) const {
        return std::find(designColumns.begin(), designColumns.end(), column) != designColumns.end();
    }
};

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
    };
    using Rows = std::vector<PinnedLine>;
    void paintRows(QPainter& painter, const GridFrame& frame, const Rows& rows, const QRect& clip);
    void paintBackgrounds(QPainter& painter, const GridFrame& frame, const Rows& rows);
    void paintCells(QPainter& painter, const GridFrame& frame, const Rows& rows, const Columns& columns);
    void paintMerged(QPainter& painter, const GridFrame& frame, const Rows& rows, int column);
    void paintTierLines(QPainter& painter, const GridFrame& frame, const Rows& rows, const Columns& columns);
    void paintCell(QPainter& painter, const GridFrame& frame, CellPlace place, const QRect& rect);
    void paintGutter(QPainter& painter, const GridFrame& frame, const PinnedLine& row);
    void paintColumnTints(QPainter& painter, const GridFrame& frame, const Columns& columns);
    void paintPinnedEdge(QPainter& painter, const GridFrame& frame);
    void paintMessage(QPainter& painter, const GridFrame& frame);

    const QPixmap& checkMark(const Tokens& tokens, bool checked, qreal pixelRatio);

    void paintSticky(QPainter& painter, const GridFrame& frame, const QRect& clip);

    GlyphText text_;
    GroupPainter groups_;
    CellText cell_;
    std::string mergedText_;
    QPixmap checks_[2];  ///< off, on; drawn once a theme and pixel ratio
    const Tokens* checksLook_ = nullptr;
};

}  // namespace jollyrow
