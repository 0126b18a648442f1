// SPDX-License-Identifier: MIT
#include "grid/column_layout.h"

#include <algorithm>
#include <cmath>

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

std::vector<int> columnWidths(std::span<const ColumnRoom> columns, int roomPx) {
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
    return widths;
}

ColumnLayout::ColumnLayout(std::vector<int> widths, int pinned, int leftPx, int viewportPx)
    : widths_(std::move(widths)), left_(leftPx), viewport_(viewportPx) {
    starts_.reserve(widths_.size() + 1);
    int x = leftPx;
    for (const int width : widths_) {
        starts_.push_back(x);
        x += width;
    }
    starts_.push_back(x);
    pinned_ = std::clamp(pinned, 0, count());
    // Pinned columns must leave room to see the others; else nothing is pinned.
    while (pinned_ > 0 && starts_[static_cast<std::size_t>(pinned_)] > viewport_ * 3 / 4) --pinned_;
}

std::optional<int> ColumnLayout::columnAt(int viewportX, int scrollX) const {
    if (viewportX < left_ || widths_.empty()) return std::nullopt;
    const int x = viewportX < pinnedEnd() ? viewportX : viewportX + scrollX;
    const auto found = std::upper_bound(starts_.begin(), starts_.end(), x);
    const auto index = static_cast<int>(found - starts_.begin()) - 1;
    return index >= 0 && index < count() ? std::optional(index) : std::nullopt;
}

std::optional<int> ColumnLayout::borderAt(int viewportX, int scrollX, int grip) const {
    for (const int probe : {viewportX, viewportX - grip - 1, viewportX + grip}) {
        const auto column = columnAt(probe, scrollX);
        if (!column) continue;
        const int right = x(*column, scrollX) + width(*column);
        const bool hidden = *column >= pinned_ && right < pinnedEnd();
        if (!hidden && std::abs(viewportX - right) <= grip) return column;
    }
    return std::nullopt;
}

int ColumnLayout::landingAt(int viewportX, int scrollX) const {
    const auto column = columnAt(std::max(viewportX, left_), scrollX);
    if (!column) return count();
    return viewportX < x(*column, scrollX) + width(*column) / 2 ? *column : *column + 1;
}

std::pair<int, int> ColumnLayout::visibleRange(int scrollX) const {
    const int from = pinnedEnd() + scrollX, to = viewport_ + scrollX;
    const auto first = std::upper_bound(starts_.begin() + pinned_, starts_.end(), from) - starts_.begin() - 1;
    const auto last = std::lower_bound(starts_.begin() + pinned_, starts_.end(), to) - starts_.begin();
    const int begin = std::max(static_cast<int>(first), pinned_);
    return {begin, std::clamp(static_cast<int>(last), begin, count())};
}

int ColumnLayout::scrollToShow(int column, int scrollX) const {
    if (column < pinned_) return scrollX;
    const int left = x(column, scrollX), right = left + width(column);
    if (left < pinnedEnd()) return scrollX - (pinnedEnd() - left);
    if (right > viewport_) return std::min(scrollX + right - viewport_, scrollX + left - pinnedEnd());
    return scrollX;
}

}  // namespace jollyrow
