// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_body.cpp, against lines counted one by one.
#include "grid/layout/body_geometry.h"

#include <algorithm>
#include <utility>

namespace jollyrow {
namespace {
constexpr std::size_t kMostHeightsKept = 4096;
}  // namespace

void BodyGeometry::layout(BodyRoom room) {
    room_ = std::move(room);
    heights_.clear();
    places_.reset();
    const int page = std::max(0, bottom() - top());
    scroll_ = hasOwnHeights() ? ScrollMap(room_.lines, LinePlaces::kUnits, page * LinePlaces::kUnits / recordHeight(),
                                          scrollWithBottomOf(room_.lines - 1, heights(), page))
                              : ScrollMap(room_.lines, recordHeight(), page);
    scrollX_ = std::clamp(scrollX_, 0, columns().maxScroll());
    scrollY_ = scroll_.clamped(scrollY_);
}

int BodyGeometry::top() const {
    const auto rows = static_cast<int>(room_.pinnedTop.size());
    return room_.headerHeight + rows * recordHeight() + (rows > 0 ? 1 : 0);
}

int BodyGeometry::bottom() const {
    const auto rows = static_cast<int>(room_.pinnedBottom.size());
    return std::max(top(), totalsTop() - rows * recordHeight() - (rows > 0 ? 1 : 0));
}

std::int64_t BodyGeometry::page() const {
    return hasOwnHeights() ? std::max<std::int64_t>(1, places().end() - places().first() - 2)
                           : std::max<std::int64_t>(1, (bottom() - top()) / recordHeight() - 1);
}

int BodyGeometry::heightOf(std::int64_t line) const {
    if (!hasOwnHeights()) return recordHeight();
    if (const auto known = heights_.find(line); known != heights_.end()) return known->second;
    if (heights_.size() > kMostHeightsKept) heights_.clear();
    return heights_.emplace(line, room_.lineHeight(line)).first->second;
}

const LinePlaces& BodyGeometry::places() const {
    if (!places_) {
        if (hasOwnHeights())
            places_.emplace(scroll_, room_.lines, scrollY_, heights(), recordHeight(), top(), bottom());
        else
            places_.emplace(scroll_, room_.lines, scrollY_, recordHeight(), top(), bottom());
    }
    return *places_;
}

std::vector<PinnedLine> BodyGeometry::pinned(const std::vector<std::int64_t>& lines, int y) const {
    std::vector<PinnedLine> out;
    for (const std::int64_t line : lines) out.push_back({line, std::exchange(y, y + recordHeight()), recordHeight()});
    return out;
}

std::vector<PinnedLine> BodyGeometry::stickyLines() const {
    std::vector<PinnedLine> sticky;
    const GroupedLines* groups = room_.sticky.get();
    if (!groups || room_.lines == 0) return sticky;
    const LinePlaces& at = places();
    int y = top();
    for (int level = 0; level < groups->tree().levels(); ++level) {
        const auto line = at.lineAt(y);
        const auto group = line ? groups->groupAround(*line, level) : std::nullopt;
        const auto own = group ? groups->lineOf(*group) : std::nullopt;
        if (!own || *own >= *line) break;  // its line is in sight itself
        const int height = room_.groupHeight(level);
        // The next group pushes it out.
        const int end = at.top(groups->endOf(*group));
        sticky.push_back({*own, std::min(y, end - height), height});
        y = sticky.back().y + height;
    }
    return sticky;
}

/// How far lines of groups lie over the top of the body when this line stands there.
int BodyGeometry::stickyDepth(std::int64_t line) const {
    const GroupedLines* groups = room_.sticky.get();
    if (!groups || line < 0 || line >= groups->count()) return 0;
    const Line at = groups->at(line);
    const int levels = groups->tree().nodes[at.group].level + (at.kind == LineKind::Group ? 0 : 1);
    int depth = 0;
    for (int level = 0; level < levels; ++level) depth += room_.groupHeight(level);
    return depth;
}

std::optional<std::int64_t> BodyGeometry::lineAt(int y) const {
    const auto of = [&](const std::vector<std::int64_t>& lines, int from) {
        return lines[std::min<std::size_t>(static_cast<std::size_t>((y - from) / recordHeight()), lines.size() - 1)];
    };
    if (y >= top() && y < bottom())
        for (const PinnedLine& sticky : stickyLines())
            if (y >= sticky.y && y < sticky.y + sticky.height) return sticky.line;
    if (y >= totalsTop()) return std::nullopt;
    if (y >= headerHeight() && y < top() && !room_.pinnedTop.empty()) return of(room_.pinnedTop, headerHeight());
    if (y > bottom() && !room_.pinnedBottom.empty()) return of(room_.pinnedBottom, bottom() + 1);
    return places().lineAt(y);
}

std::optional<CellPlace> BodyGeometry::placeAt(QPoint position) const {
    const int y = position.y();
    if (y < headerHeight()) return std::nullopt;
    const auto line = lineAt(y);
    if (!line || *line < 0 || *line >= room_.lines) return std::nullopt;
    const bool isPinned = y < top() || y > bottom();
    const int from = y < top() ? headerHeight() : bottom() + 1;
    const int lineTop = isPinned ? y - (y - from) % recordHeight() : places().top(*line);
    const int height = isPinned ? recordHeight() : places().height(*line);
    // The last part that begins above the point (partOf).
    const int recordLine =
        std::clamp(((y - lineTop + 1) * recordLines() - 1) / std::max(1, height), 0, recordLines() - 1);
    const auto column = columns().columnAt(position.x(), scrollX_, recordLine);
    return column ? std::optional(CellPlace{*line, *column}) : std::nullopt;
}

QRect BodyGeometry::partOf(int column, int y, int height) const {
    const int line = columns().line(column);
    const int from = height * line / recordLines(), to = height * (line + 1) / recordLines();
    return {columns().x(column, scrollX_), y + from, columns().width(column), to - from};
}

QRect BodyGeometry::cellRect(CellPlace place) const {
    return partOf(place.column, places().top(place.line), places().height(place.line));
}

QRect BodyGeometry::roomOf(int column) const {
    const auto [from, to] = columns().extent(columns().zoneOf(column));
    return {from, 0, to - from, room_.viewport.height()};
}

bool BodyGeometry::setScrollX(int x) {
    x = std::clamp(x, 0, columns().maxScroll());
    return std::exchange(scrollX_, x) != x;
}

bool BodyGeometry::setScrollY(std::int64_t y) {
    y = scroll_.clamped(y);
    if (y == scrollY_) return false;
    scrollY_ = y;
    places_.reset();
    return true;
}

bool BodyGeometry::scrollPixels(std::int64_t pixels) {
    return setScrollY(hasOwnHeights() ? scrolledBy(scrollY_, pixels, room_.lines, heights()) : scrollY_ + pixels);
}

bool BodyGeometry::showLine(std::int64_t line) {
    if (!hasOwnHeights()) return setScrollY(scroll_.scrollToShow(line, scrollY_));
    const LinePlaces& at = places();
    const bool inSight = line >= at.first() && line < at.end();
    const bool fills = inSight && at.top(line) <= top() && at.top(line) + at.height(line) >= bottom();
    if (fills) return false;  // no more of it can be shown
    if (line < at.first() || (inSight && at.top(line) < top())) return setScrollY(line * LinePlaces::kUnits);
    if (inSight && at.top(line) + at.height(line) <= bottom()) return false;
    return setScrollY(scrollWithBottomOf(line, heights(), bottom() - top()));
}

bool BodyGeometry::show(CellPlace place) {
    bool moved = showLine(place.line);
    if (const int depth = stickyDepth(place.line); depth > 0)
        if (const int above = top() + depth - places().top(place.line); above > 0)
            moved = scrollPixels(-above) || moved;
    return showColumn(place.column) || moved;
}

}  // namespace jollyrow
