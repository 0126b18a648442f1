// SPDX-License-Identifier: MIT
#pragma once
// Paints the headings: text, sort marks, the one selected for design, the landing mark and the ghost of a drag.

#include <QPainter>

#include <optional>
#include <vector>

#include "grid/grid_painter.h"

namespace jollyrow {

/// What the heading strip shows beyond the frame.
struct HeadingState {
    struct Sort {
        int rank = 0;  ///< 1 = first key, 0 = not sorted by
        Direction direction = Direction::Ascending;
    };
    std::vector<Sort> sorts;  ///< by column
    bool severalKeys = false;
    std::optional<int> hovered;
    std::optional<int> dragged;  ///< being moved
    int dragX = 0;               ///< pointer while moving
    std::optional<int> landing;  ///< before this column
};

class HeadingPainter final {
  public:
    explicit HeadingPainter(const QFont& font);
    void paint(QPainter& painter, const GridFrame& frame, const HeadingState& state);
    /// Width a heading needs, its marks and padding included.
    int neededWidth(const std::string& heading) const;
    static int heightFor(const QFont& font);

  private:
    void paintHeading(QPainter& painter, const GridFrame& frame, const HeadingState& state, int column);
    void paintLanding(QPainter& painter, const GridFrame& frame, const HeadingState& state);
    GlyphText text_;
    GlyphText rank_;
};

}  // namespace jollyrow
