// SPDX-License-Identifier: MIT
#pragma once
// ScrollMap: lines to pixels beyond what 32 bits hold, and between 64-bit pixels and a scroll bar that counts in int.
// Pure; immutable.

#include <algorithm>
#include <cstdint>
#include <optional>

namespace jollyrow {

class ScrollMap final {
  public:
    ScrollMap() = default;
    /// `most`: the last position, when it is not what lines of one height give. Requires: lineHeight > 0, pagePx >= 0.
    ScrollMap(std::int64_t lines, int lineHeight, int pagePx, std::optional<std::int64_t> most = std::nullopt)
        : lines_(lines), lineHeight_(lineHeight), page_(pagePx), most_(most) {
        const std::int64_t range = maxScroll();
        unit_ = range / kBarMost + 1;
    }

    std::int64_t contentHeight() const { return lines_ * lineHeight_; }
    std::int64_t maxScroll() const { return most_ ? *most_ : std::max<std::int64_t>(0, contentHeight() - page_); }
    std::int64_t clamped(std::int64_t y) const { return std::clamp<std::int64_t>(y, 0, maxScroll()); }

    /// The line at a content pixel; may be outside [0, lines).
    std::int64_t lineAt(std::int64_t contentY) const { return contentY >= 0 ? contentY / lineHeight_ : -1; }
    std::int64_t top(std::int64_t line) const { return line * lineHeight_; }
    /// The scroll position that shows a whole line, moving as little as possible.
    std::int64_t scrollToShow(std::int64_t line, std::int64_t y) const {
        if (top(line) < y) return clamped(top(line));
        if (top(line) + lineHeight_ > y + page_) return clamped(top(line) + lineHeight_ - page_);
        return y;
    }

    /// The bar's maximum, page and value; its thumb reaches the end exactly when the content does.
    int barMaximum() const { return static_cast<int>((maxScroll() + unit_ - 1) / unit_); }
    int barPage() const { return static_cast<int>(std::max<std::int64_t>(1, page_ / unit_)); }
    int toBar(std::int64_t y) const { return y >= maxScroll() ? barMaximum() : static_cast<int>(y / unit_); }
    std::int64_t fromBar(int value) const {
        return value >= barMaximum() ? maxScroll() : clamped(static_cast<std::int64_t>(value) * unit_);
    }

  private:
    static constexpr std::int64_t kBarMost = 1'000'000'000;
    std::int64_t lines_ = 0;
    std::int64_t lineHeight_ = 26;
    std::int64_t page_ = 0;
    std::optional<std::int64_t> most_;
    std::int64_t unit_ = 1;
};

}  // namespace jollyrow
