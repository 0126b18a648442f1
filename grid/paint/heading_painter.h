// SPDX-License-Identifier: MIT
#pragma once
// Paints the headings: tiers over their columns, words, sort marks, the ones selected for design, and while one is
// dragged its ghost, where it would land, and what that would do in words.

#include <QPainter>

#include <optional>
#include <vector>

#include "grid/layout/heading_layout.h"
#include "grid/paint/grid_painter.h"

namespace jollyrow {

/// Where a dragged heading would land.
struct LandingMark {
    enum class Kind {
        None,
        Between,  ///< at the left edge of `rect`, from its top down
        Around,   ///< under a common heading with what `rect` covers
        Beneath,  ///< in the lower part of `rect`
    };
    Kind kind = Kind::None;
    QRect rect;
    QString words;  ///< what would happen
};

/// What the headings show beyond the frame.
struct HeadingState {
    struct Sort {
        int rank = 0;  ///< 1 = first key, 0 = not sorted by
        Direction direction = Direction::Ascending;
    };
    std::vector<Sort> sorts;  ///< by column
    bool severalKeys = false;
    std::vector<bool> filtered;  ///< by column: some condition reads it
    std::vector<bool> grouped;   ///< by column: records are grouped by it
    std::optional<int> hoveredColumn, hoveredTier;
    std::optional<int> focusedColumn, focusedTier;  ///< where the keys are, while they are on the headings
    std::optional<int> designTier;
    std::optional<int> draggedColumn, draggedTier;
    QPoint dragAt;
    LandingMark landing;
};

class HeadingPainter final {
  public:
    explicit HeadingPainter(const QFont& font);
    void paint(QPainter& painter, const GridFrame& frame, const HeadingLayout& layout, const HeadingState& state);
    /// Width a heading needs, its marks and padding included.
    int neededWidth(const std::string& heading) const;
    static HeadingHeights heightsFor(const QFont& font);

  private:
    void paintColumn(QPainter& painter, const GridFrame& frame, const HeadingLayout& layout, const HeadingState& state,
                     int column);
    void paintPlace(QPainter& painter, const GridFrame& frame, const HeadingLayout& layout, const HeadingState& state,
                    int column);
    void paintTier(QPainter& painter, const GridFrame& frame, const HeadingLayout& layout, const HeadingState& state,
                   int tier);
    void paintFold(QPainter& painter, const GridFrame& frame, const HeadingLayout& layout, const PlannedTier& tier,
                   int index, bool hovered);
    void paintLanding(QPainter& painter, const GridFrame& frame, const HeadingState& state);
    GlyphText text_;
    GlyphText rank_;
    GlyphText tier_;
    GlyphText small_;
};

}  // namespace jollyrow
