// SPDX-License-Identifier: MIT
#include "grid/layout/column_layout.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace jollyrow {
namespace {

int held(const Width& width, int px) {
    const int least = std::max(width.minimum, Width::kLeastPixels);
    const int most = width.maximum > 0 ? std::max(width.maximum, least) : Width::kMostPixels;
    return std::clamp(px, least, most);
}

/// Shares `room` among the columns listed: those that hit a bound leave the sharing, until none does.
void share(std::span<const ColumnRoom> columns, std::vector<std::size_t> open, int room, std::vector<int>& widths) {
    for (bool settled = false; !settled && !open.empty();) {
        settled = true;
        double weights = 0;
        for (const std::size_t i : open) weights += columns[i].width.weight;
        // Positions are rounded, not widths: the sum is exact and no column is off by more than a pixel.
        double position = 0;
        int before = 0, excess = 0;
        std::vector<int> wished(open.size());
        for (std::size_t k = 0; k < open.size(); ++k) {
            position += columns[open[k]].width.weight / weights * std::max(room, 0);
            const int after = k + 1 == open.size() ? std::max(room, 0) : static_cast<int>(std::lround(position));
            wished[k] = after - before;
            before = after;
            widths[open[k]] = held(columns[open[k]].width, wished[k]);
            excess += widths[open[k]] - wished[k];
        }
        if (excess == 0) continue;
        // As in flexible layout: freeze the side that decides, share again among the rest.
        std::vector<std::size_t> rest;
        for (std::size_t k = 0; k < open.size(); ++k) {
            const int violation = widths[open[k]] - wished[k];
            if ((excess > 0 && violation > 0) || (excess < 0 && violation < 0))
                room -= widths[open[k]];
            else
                rest.push_back(open[k]);
        }
        settled = rest.size() == open.size();
        open = std::move(rest);
    }
}

}  // namespace

std::vector<int> columnWidths(std::span<const ColumnRoom> columns, int roomPx, std::optional<int> fills) {
    std::vector<int> widths(columns.size());
    std::vector<std::size_t> sharing;
    int taken = 0;
    for (std::size_t i = 0; i < columns.size(); ++i) {
        const ColumnRoom& column = columns[i];
        if (column.width.mode == WidthMode::Share) {
            sharing.push_back(i);
            continue;
        }
        widths[i] = column.width.mode == WidthMode::Fixed
                        ? std::clamp(column.width.pixels, Width::kLeastPixels, Width::kMostPixels)
                        : held(column.width, column.fitPx);
        taken += widths[i];
    }
    share(columns, std::move(sharing), roomPx - taken, widths);
    if (fills) {
        const int sum = std::accumulate(widths.begin(), widths.end(), 0);
        widths[static_cast<std::size_t>(*fills)] += std::max(0, roomPx - sum);
    }
    return widths;
}

ColumnLayout::ColumnLayout(std::vector<int> widths, PinnedPlaces pinned, int leftPx, int viewportPx,
                           std::vector<ColumnPlace> columns)
    : widths_(std::move(widths)), columns_(std::move(columns)), left_(leftPx), viewport_(viewportPx) {
    starts_.reserve(widths_.size() + 1);
    int x = leftPx;
    for (const int width : widths_) {
        starts_.push_back(x);
        x += width;
    }
    starts_.push_back(x);
    if (columns_.empty())
        for (int i = 0; i < places(); ++i) columns_.push_back({i, 1, 0});
    pinned_.left = std::clamp(pinned.left, 0, places());
    pinned_.right = std::clamp(pinned.right, 0, places() - pinned_.left);
    // Pinned columns must leave room to see the others; else fewer are pinned.
    const auto taken = [this] {
        return starts_[static_cast<std::size_t>(pinned_.left)] + starts_.back() -
               starts_[static_cast<std::size_t>(places() - pinned_.right)];
    };
    while (pinned_.right > 0 && taken() > viewport_ * 3 / 4) --pinned_.right;
    while (pinned_.left > 0 && taken() > viewport_ * 3 / 4) --pinned_.left;
    firstColumn_.assign(widths_.size(), count());
    endColumn_.assign(widths_.size(), 0);
    for (int i = 0; i < count(); ++i) {
        ColumnPlace& c = columns_[static_cast<std::size_t>(i)];
        // A column reaches over its zone's edge no more than a heading may.
        while (c.span > 1 && zoneOfPlace(c.place + c.span - 1) != zoneOfPlace(c.place)) --c.span;
        while (static_cast<int>(on_.size()) <= c.line) on_.emplace_back(widths_.size(), -1);
        for (int p = c.place; p < c.place + c.span; ++p) {
            int& first = firstColumn_[static_cast<std::size_t>(p)];
            first = std::min(first, i);
            on_[static_cast<std::size_t>(c.line)][static_cast<std::size_t>(p)] = i;
        }
        int& end = endColumn_[static_cast<std::size_t>(c.place)];
        end = std::max(end, i + 1);
    }
}

int ColumnLayout::width(int column) const {
    const ColumnPlace& c = at(column);
    return starts_[static_cast<std::size_t>(c.place + c.span)] - starts_[static_cast<std::size_t>(c.place)];
}

int ColumnLayout::placeX(int place, int scrollX) const {
    const int start = starts_[static_cast<std::size_t>(place)];
    switch (zoneOfPlace(place)) {
        case Zone::Left: return start;
        case Zone::Scrolled: return start - scrollX;
        case Zone::Right: return start - maxScroll();
    }
    return start;
}

std::pair<int, int> ColumnLayout::extent(Zone zone) const {
    switch (zone) {
        case Zone::Left: return {0, pinnedEnd()};
        case Zone::Scrolled: return {pinnedEnd(), std::max(pinnedEnd(), rightStart())};
        case Zone::Right: return {rightStart(), viewport_};
    }
    return {};
}

std::optional<int> ColumnLayout::placeAt(int viewportX, int scrollX) const {
    if (viewportX < left_ || widths_.empty()) return std::nullopt;
    const int x = viewportX < pinnedEnd()     ? viewportX
                  : viewportX >= rightStart() ? viewportX + maxScroll()
                                              : viewportX + scrollX;
    const auto found = std::upper_bound(starts_.begin(), starts_.end(), x);
    const auto index = static_cast<int>(found - starts_.begin()) - 1;
    return index >= 0 && index < places() ? std::optional(index) : std::nullopt;
}

std::optional<int> ColumnLayout::columnOn(int place, int line) const {
    if (line < 0 || line >= static_cast<int>(on_.size())) return std::nullopt;
    const int column = on_[static_cast<std::size_t>(line)][static_cast<std::size_t>(place)];
    return column < 0 ? std::nullopt : std::optional(column);
}

std::optional<int> ColumnLayout::columnAt(int viewportX, int scrollX, int line) const {
    const auto place = placeAt(viewportX, scrollX);
    for (int l = line; place && l >= 0; --l)
        if (const auto column = columnOn(*place, l)) return column;
    return std::nullopt;
}

std::optional<int> ColumnLayout::borderAt(int viewportX, int scrollX, int grip) const {
    for (const int probe : {viewportX, viewportX - grip - 1, viewportX + grip}) {
        const auto place = placeAt(probe, scrollX);
        if (!place) continue;
        const int right = placeX(*place, scrollX) + placeWidth(*place);
        const auto [from, to] = extent(zoneOfPlace(*place));
        if (right >= from && right <= to && std::abs(viewportX - right) <= grip) return columnOn(*place, 0);
    }
    return std::nullopt;
}

ColumnRange ColumnLayout::visible(Zone zone, int scrollX) const {
    const int first = zone == Zone::Left ? 0 : zone == Zone::Scrolled ? pinned_.left : places() - pinned_.right;
    const int end = zone == Zone::Left ? pinned_.left : zone == Zone::Scrolled ? places() - pinned_.right : places();
    if (first >= end) return {};
    int from = first, to = end;
    if (zone == Zone::Scrolled) {
        const auto [left, right] = extent(zone);
        const auto begin = starts_.begin() + first, stop = starts_.begin() + end;
        from = static_cast<int>(std::upper_bound(begin, stop, left + scrollX) - starts_.begin()) - 1;
        to = static_cast<int>(std::lower_bound(begin, stop, right + scrollX) - starts_.begin());
        from = std::clamp(from, first, end);
        to = std::clamp(to, from, end);
        if (from == to) return {};
    }
    int last = 0;
    for (int p = from; p < to; ++p) last = std::max(last, endColumn_[static_cast<std::size_t>(p)]);
    return {firstColumn_[static_cast<std::size_t>(from)], last};
}

int ColumnLayout::scrollToShow(int column, int scrollX) const {
    if (zoneOf(column) != Zone::Scrolled) return scrollX;
    const auto [from, to] = extent(Zone::Scrolled);
    const int left = x(column, scrollX), right = left + width(column);
    if (left < from) return scrollX - (from - left);
    if (right > to) return std::min(scrollX + right - to, scrollX + left - from);
    return scrollX;
}

}  // namespace jollyrow
