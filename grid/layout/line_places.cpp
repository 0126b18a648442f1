// SPDX-License-Identifier: MIT
#include "grid/layout/line_places.h"

namespace jollyrow {

LinePlaces::LinePlaces(const ScrollMap& scroll, std::int64_t lines, std::int64_t scrollY, int height, int top,
                       int bottom)
    : nominal_(height), bodyTop_(top) {
    first_ = std::clamp<std::int64_t>(scroll.lineAt(scrollY), 0, std::max<std::int64_t>(0, lines - 1));
    tops_[0] = top + static_cast<int>(scroll.top(first_) - scrollY);
    for (std::int64_t line = first_; line < lines && tops_.back() < bottom; ++line)
        tops_.push_back(tops_.back() + height);
}

LinePlaces::LinePlaces(const ScrollMap& scroll, std::int64_t lines, std::int64_t scrollY, const HeightOf& heightOf,
                       int nominal, int top, int bottom)
    : nominal_(nominal), bodyTop_(top) {
    first_ = std::clamp<std::int64_t>(scroll.lineAt(scrollY), 0, std::max<std::int64_t>(0, lines - 1));
    if (lines == 0) return;
    const std::int64_t offset = scrollY - first_ * kUnits;
    tops_[0] = top - static_cast<int>(offset * heightOf(first_) / kUnits);
    for (std::int64_t line = first_; line < lines && tops_.back() < bottom; ++line)
        tops_.push_back(tops_.back() + heightOf(line));
}

int LinePlaces::top(std::int64_t line) const {
    constexpr std::int64_t kFar = 1'000'000;
    if (line >= first_ && line <= end()) return tops_[static_cast<std::size_t>(line - first_)];
    const std::int64_t y =
        line < first_ ? tops_.front() - (first_ - line) * nominal_ : tops_.back() + (line - end()) * nominal_;
    return static_cast<int>(std::clamp(y, -kFar, kFar));
}

int LinePlaces::height(std::int64_t line) const {
    if (line < first_ || line >= end()) return nominal_;
    const auto at = static_cast<std::size_t>(line - first_);
    return tops_[at + 1] - tops_[at];
}

std::optional<std::int64_t> LinePlaces::lineAt(int y) const {
    if (y < bodyTop_ || y >= tops_.back()) return std::nullopt;
    const auto above = std::upper_bound(tops_.begin(), tops_.end(), y);
    return above == tops_.begin() ? std::nullopt : std::optional(first_ + (above - tops_.begin()) - 1);
}

std::int64_t scrollWithBottomOf(std::int64_t line, const LinePlaces::HeightOf& heightOf, int pagePx) {
    std::int64_t left = pagePx;
    for (; line >= 0; --line) {
        const int height = heightOf(line);
        if (height >= left)
            return line * LinePlaces::kUnits +
                   ((height - left) * LinePlaces::kUnits + std::max(1, height) - 1) / std::max(1, height);
        left -= height;
    }
    return 0;
}

std::int64_t scrolledBy(std::int64_t scrollY, std::int64_t pixels, std::int64_t lines,
                        const LinePlaces::HeightOf& heightOf) {
    std::int64_t line = scrollY / LinePlaces::kUnits;
    if (lines == 0) return 0;
    std::int64_t offset =
        (scrollY % LinePlaces::kUnits) * heightOf(std::min(line, lines - 1)) / LinePlaces::kUnits + pixels;
    while (offset < 0 && line > 0) offset += heightOf(--line);
    for (int height = heightOf(std::min(line, lines - 1)); offset >= height && line < lines - 1;
         height = heightOf(std::min(line, lines - 1))) {
        offset -= height;
        ++line;
    }
    return std::max<std::int64_t>(
        0, line * LinePlaces::kUnits + offset * LinePlaces::kUnits / std::max(1, heightOf(std::min(line, lines - 1))));
}

}  // namespace jollyrow
