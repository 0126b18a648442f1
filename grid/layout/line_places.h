// SPDX-License-Identifier: MIT
#pragma once
// LinePlaces: where the lines in sight stand in the viewport. With lines of one height it is arithmetic on ScrollMap;
// with automatic heights only the lines in sight are measured, so that ten million of them cost no more than ten: the
// scroll position then counts lines (kUnits a line), not pixels. Pure; immutable once made.

#include <cstdint>
#include <functional>
#include <optional>
#include <vector>

#include "grid/layout/scroll_map.h"

namespace jollyrow {

/// A line that stays where it is while others are scrolled, and where.
struct PinnedLine {
    std::int64_t line = 0;
    int y = 0;
    int height = 26;
};

class LinePlaces final {
  public:
    static constexpr int kUnits = 1024;  ///< scroll units a line, when heights are automatic
    using HeightOf = std::function<int(std::int64_t line)>;

    LinePlaces() = default;
    /// Lines of one height: scrollY is in pixels. `top` and `bottom` bound the body in the viewport.
    LinePlaces(const ScrollMap& scroll, std::int64_t lines, std::int64_t scrollY, int height, int top, int bottom);
    /// Lines of their own heights: scrollY is in units of `scroll`.
    LinePlaces(const ScrollMap& scroll, std::int64_t lines, std::int64_t scrollY, const HeightOf& heightOf, int nominal,
               int top, int bottom);

    /// Half-open range of lines of which something can be seen.
    std::int64_t first() const { return first_; }
    std::int64_t end() const { return first_ + static_cast<std::int64_t>(tops_.size()) - 1; }
    /// Lines out of sight stand where they would if all there were of the nominal height.
    int top(std::int64_t line) const;
    int height(std::int64_t line) const;
    /// nullopt above the body and behind the last line.
    std::optional<std::int64_t> lineAt(int y) const;

  private:
    std::int64_t first_ = 0;
    std::vector<int> tops_{0};  ///< one more than there are lines in sight
    int nominal_ = 26;
    int bodyTop_ = 0;
};

/// For automatic heights: the position at which the bottom of `line` is the bottom of the page. O(lines on a page).
std::int64_t scrollWithBottomOf(std::int64_t line, const LinePlaces::HeightOf& heightOf, int pagePx);
/// The position `pixels` further down. O(lines passed).
std::int64_t scrolledBy(std::int64_t scrollY, std::int64_t pixels, std::int64_t lines,
                        const LinePlaces::HeightOf& heightOf);

}  // namespace jollyrow
