// SPDX-License-Identifier: MIT
#pragma once
// BodyGeometry: where lines and cells stand between the headings and the totals, what stands at a point, and how far
// the body is scrolled. Pure: sizes and heights in, rectangles out; knows no widget, no session and no font.

#include <QPoint>
#include <QRect>
#include <QSize>

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <unordered_map>
#include <vector>

#include "core/rows/grouped_lines.h"
#include "grid/layout/column_layout.h"
#include "grid/layout/line_places.h"
#include "grid/layout/scroll_map.h"
#include "grid/select/selection.h"

namespace jollyrow {

/// What the body is laid out from. Pixels.
struct BodyRoom {
    QSize viewport;
    int headerHeight = 34;  ///< headings and filter row
    int totalsHeight = 0;   ///< at the foot
    int rowHeight = 26;     ///< of one line of a record
    int recordLines = 1;    ///< lines of a record
    std::int64_t lines = 0;
    std::vector<std::int64_t> pinnedTop = {}, pinnedBottom = {};  ///< lines of the records that stay at the edges
    ColumnLayout columns = {};
    /// Empty: all lines are as high as a record.
    LinePlaces::HeightOf lineHeight = {};
    /// The groups whose lines stay at the top while something of theirs is in sight; null for none.
    std::shared_ptr<const GroupedLines> sticky = nullptr;
    std::function<int(int level)> groupHeight = {};  ///< of a group's own line
};

class BodyGeometry final {
  public:
    /// Keeps the place it is scrolled to as far as it is there still. O(1); with own heights O(lines in sight).
    void layout(BodyRoom room);

    const ColumnLayout& columns() const { return room_.columns; }
    const ScrollMap& scroll() const { return scroll_; }
    std::int64_t lines() const { return room_.lines; }
    QSize viewport() const { return room_.viewport; }
    int rowHeight() const { return room_.rowHeight; }
    int recordHeight() const { return room_.rowHeight * recordLines(); }
    int recordLines() const { return std::max(1, room_.recordLines); }
    int headerHeight() const { return room_.headerHeight; }
    bool hasOwnHeights() const { return static_cast<bool>(room_.lineHeight); }
    int heightOf(std::int64_t line) const;
    /// Below the headings and the records pinned at the top; above those pinned at the bottom and the totals.
    int top() const;
    int bottom() const;
    int totalsTop() const { return room_.viewport.height() - room_.totalsHeight; }
    /// How many lines a page down goes.
    std::int64_t page() const;

    const LinePlaces& places() const;
    std::vector<PinnedLine> pinnedTop() const { return pinned(room_.pinnedTop, room_.headerHeight); }
    std::vector<PinnedLine> pinnedBottom() const { return pinned(room_.pinnedBottom, bottom() + 1); }
    /// Lines of groups that lie over the top of the body, outermost first.
    std::vector<PinnedLine> stickyLines() const;

    /// The line at a y of the viewport, pinned and sticky ones included.
    std::optional<std::int64_t> lineAt(int y) const;
    std::optional<CellPlace> placeAt(QPoint position) const;
    /// Where a cell stands among the scrolled records.
    QRect cellRect(CellPlace place) const;
    /// The part of a record's height that a column takes.
    QRect partOf(int column, int y, int height) const;
    /// The part of the viewport in which a column can be seen: beside the pinned ones unless it is one of them.
    QRect roomOf(int column) const;

    int scrollX() const { return scrollX_; }
    std::int64_t scrollY() const { return scrollY_; }
    /// True when it is another place than before.
    bool setScrollX(int x);
    bool setScrollY(std::int64_t y);
    bool scrollPixels(std::int64_t pixels);
    /// Scrolls as little as shows the whole cell, from under groups that stay at the top.
    bool show(CellPlace place);
    bool showColumn(int column) { return setScrollX(columns().scrollToShow(column, scrollX_)); }

  private:
    std::vector<PinnedLine> pinned(const std::vector<std::int64_t>& lines, int y) const;
    int stickyDepth(std::int64_t line) const;
    bool showLine(std::int64_t line);
    LinePlaces::HeightOf heights() const {
        return [this](std::int64_t line) { return heightOf(line); };
    }

    BodyRoom room_;
    ScrollMap scroll_;
    int scrollX_ = 0;
    std::int64_t scrollY_ = 0;
    mutable std::optional<LinePlaces> places_;
    mutable std::unordered_map<std::int64_t, int> heights_;  ///< own heights by line, as far as they were asked for
};

}  // namespace jollyrow
