// SPDX-License-Identifier: MIT
#pragma once
// Where columns stand: widths from the design's settings and the room there is, then positions and hit tests.
// Pure arithmetic over integers; knows no widget. Immutable once made.

#include <cstdint>
#include <optional>
#include <span>
#include <vector>

#include "core/design/design.h"

namespace jollyrow {

/// What the arithmetic needs of one column.
struct ColumnRoom {
    Width width;
    int fitPx = 80;  ///< what heading and content need; used when the mode is Fit
};

/// One width a column, in pixels. Fixed and Fit first; what is left of `roomPx` goes to the Share columns by weight,
/// each held within its minimum and maximum. When there is a Share column without a maximum and the room suffices,
/// the sum is exactly `roomPx`. O(n * shares).
std::vector<int> columnWidths(std::span<const ColumnRoom> columns, int roomPx);

class ColumnLayout final {
  public:
    ColumnLayout() = default;
    /// `pinned` first columns stay at the left edge. Columns start at x = `leftPx`.
    ColumnLayout(std::vector<int> widths, int pinned, int leftPx, int viewportPx);

    int count() const { return static_cast<int>(widths_.size()); }
    int width(int column) const { return widths_[static_cast<std::size_t>(column)]; }
    int pinned() const { return pinned_; }
    /// Left edge in the viewport when scrolled to scrollX. Requires: 0 <= column < count().
    int x(int column, int scrollX) const {
        return starts_[static_cast<std::size_t>(column)] - (column < pinned_ ? 0 : scrollX);
    }
    /// Right edge of the pinned columns, where scrolled ones disappear.
    int pinnedEnd() const { return pinned_ == 0 ? left_ : starts_[static_cast<std::size_t>(pinned_)]; }
    /// Everything, gutter included.
    int contentWidth() const { return starts_.empty() ? left_ : starts_.back(); }
    int maxScroll() const { return contentWidth() > viewport_ ? contentWidth() - viewport_ : 0; }
    /// The column under a viewport x; nullopt in the gutter and behind the last.
    std::optional<int> columnAt(int viewportX, int scrollX) const;
    /// The column whose right border is within `grip` pixels.
    std::optional<int> borderAt(int viewportX, int scrollX, int grip) const;
    /// Where a column dragged to viewportX lands: before this column, count() for the end.
    int landingAt(int viewportX, int scrollX) const;
    /// Half-open range of scrolled (not pinned) columns that can be seen.
    std::pair<int, int> visibleRange(int scrollX) const;
    /// The scroll position that brings a column in sight, moving as little as possible.
    int scrollToShow(int column, int scrollX) const;

  private:
    std::vector<int> widths_;
    std::vector<int> starts_;  ///< one more than there are columns
    int pinned_ = 0;
    int left_ = 0;
    int viewport_ = 0;
};

}  // namespace jollyrow
