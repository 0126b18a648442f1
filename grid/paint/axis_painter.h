// SPDX-License-Identifier: MIT
#pragma once
// AxisPainter: the scale at the foot of a column of bars. Its marks stand where the bars of that number end, at every
// width, zoom and pin: both ask BarPart for the place. It gains figures as the column widens.

#include <QPainter>

#include <vector>

#include "core/rows/extents.h"
#include "grid/paint/glyph_text.h"
#include "grid/paint/grid_frame.h"

namespace jollyrow {

class AxisPainter final {
  public:
    static constexpr int kHeight = 22;  ///< pixels, of the numbers
    static constexpr int kLegend = 16;  ///< of what stacked bars are made of
    /// Has the column bars alone, of one scale, whose design asks for an axis?
    static bool has(const PlannedColumn& column);
    /// Pixels that the axes of a plan's columns take; 0 where there are none.
    static int height(const ViewPlan& plan);
    /// Between the records and the totals, from `top` down.
    static void paint(QPainter& painter, const GridFrame& frame, int top, const QFont& font, const QRect& clip);
    /// Where the lengths of a column's bars lie across the viewport. Requires: has(column).
    static QRectF lengths(const GridFrame& frame, int column, const QFont& font);

  private:
    static void paintLegend(QPainter& painter, const PlannedPart& bar, const QRectF& room, GlyphText& glyphs,
                            const Tokens& tokens);
};

/// Whole multiples of 1, 2 or 5 times a power of ten within the ends, at most `most` of them but at least the one
/// nearest to zero (P. S. Heckbert, Nice Numbers for Graph Labels, Graphics Gems, 1990).
std::vector<double> niceNumbers(const Extent& ends, int most);
/// "12 500", "0.25".
std::string axisText(double number);

}  // namespace jollyrow
