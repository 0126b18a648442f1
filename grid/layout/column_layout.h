// SPDX-License-Identifier: MIT
#pragma once
// Where columns stand: widths from the design's settings and the room there is, then positions and hit tests.
// Pure arithmetic over integers; knows no widget. Immutable once made.

#include <cstdint>
#include <optional>
#include <span>
#include <utility>
#include <vector>

#include "core/design/design.h"

namespace jollyrow {

/// What the arithmetic needs of one column.
struct ColumnRoom {
    Width width;
    int fitPx = 80;  ///< what heading and content need; used when the mode is Fit
};

/// One width a place, in pixels. Fixed and Fit first; what is left of `roomPx` goes to the Share ones by weight, each
/// held within its minimum and maximum. When there is a Share without a maximum and the room suffices, the sum is
/// exactly `roomPx`. Room that is left over then goes to `fills`, if there is one. O(n * shares).
std::vector<int> columnWidths(std::span<const ColumnRoom> columns, int roomPx, std::optional<int> fills = std::nullopt);

/// Where a column stands: a place across, from 0, and a line of the record, from 0. A place has one column on line 0;
/// those beneath it follow it in the order of columns and may be several places wide.
struct ColumnPlace {
    int place = 0;
    int span = 1;
    int line = 0;
};

/// How many places stay at the edges.
struct PinnedPlaces {
    int left = 0;
    int right = 0;
};

enum class Zone { Left, Scrolled, Right };

/// Half-open range of columns.
struct ColumnRange {
    int begin = 0;
    int end = 0;
};

class ColumnLayout final {
  public:
    ColumnLayout() = default;
    /// Columns start at x = `leftPx`. `columns` empty: one column a place.
    ColumnLayout(std::vector<int> widths, PinnedPlaces pinned, int leftPx, int viewportPx,
                 std::vector<ColumnPlace> columns = {});

    int count() const { return static_cast<int>(columns_.size()); }
    int places() const { return static_cast<int>(widths_.size()); }
    int place(int column) const { return at(column).place; }
    int line(int column) const { return at(column).line; }
    int width(int column) const;
    /// Left edge in the viewport when scrolled to scrollX. Requires: 0 <= column < count().
    int x(int column, int scrollX) const { return placeX(at(column).place, scrollX); }
    int placeX(int place, int scrollX) const;
    int placeWidth(int place) const { return widths_[static_cast<std::size_t>(place)]; }
    Zone zoneOf(int column) const { return zoneOfPlace(at(column).place); }
    Zone zoneOfPlace(int place) const {
        return place < pinned_.left ? Zone::Left : place >= places() - pinned_.right ? Zone::Right : Zone::Scrolled;
    }
    PinnedPlaces pinned() const { return pinned_; }
    /// Right edge of the left pinned columns, where scrolled ones disappear.
    int pinnedEnd() const { return starts_.empty() ? left_ : starts_[static_cast<std::size_t>(pinned_.left)]; }
    /// Left edge of the right pinned ones; the end of the viewport when there are none.
    int rightStart() const { return pinned_.right == 0 ? viewport_ : placeX(places() - pinned_.right, 0); }
    /// Everything, gutter included.
    int contentWidth() const { return starts_.empty() ? left_ : starts_.back(); }
    int maxScroll() const { return contentWidth() > viewport_ ? contentWidth() - viewport_ : 0; }
    /// The columns of a zone that can be seen, with what stands beneath them.
    ColumnRange visible(Zone zone, int scrollX) const;
    /// Where a zone is in the viewport: [first, second).
    std::pair<int, int> extent(Zone zone) const;
    /// The place under a viewport x; nullopt in the gutter and behind the last.
    std::optional<int> placeAt(int viewportX, int scrollX) const;
    /// The column there on a line of the record; the one above where that line has none.
    std::optional<int> columnAt(int viewportX, int scrollX, int line = 0) const;
    /// The column on line 0 of the place whose right border is within `grip` pixels.
    std::optional<int> borderAt(int viewportX, int scrollX, int grip) const;
    /// The column on a line of the record at a place; nullopt when there is none.
    std::optional<int> columnOn(int place, int line) const;
    /// The scroll position that brings a column in sight, moving as little as possible.
    int scrollToShow(int column, int scrollX) const;

  private:
    const ColumnPlace& at(int column) const { return columns_[static_cast<std::size_t>(column)]; }
    std::vector<int> widths_;
    std::vector<int> starts_;  ///< one more than there are places
    std::vector<ColumnPlace> columns_;
    std::vector<int> firstColumn_;      ///< by place: the first column that covers it
    std::vector<int> endColumn_;        ///< by place: one past the last that starts there
    std::vector<std::vector<int>> on_;  ///< by line, by place: column or -1
    PinnedPlaces pinned_;
    int left_ = 0;
    int viewport_ = 0;
};

}  // namespace jollyrow
