// SPDX-License-Identifier: MIT
#pragma once
// Lists of numbers as databases keep them in a text: "[1, 2.5, null]" (RFC 8259), or without the brackets.

#include <cstddef>
#include <optional>
#include <string_view>
#include <vector>

namespace jollyrow {

/// Past this a list is none: it is shown as it is written.
inline constexpr std::size_t kMostListed = 100'000;

/// NaN for gaps: null, NaN, nothing between two commas, infinities. nullopt for a text that is no list of numbers.
/// O(length).
std::optional<std::vector<double>> numbersIn(std::string_view list);

/// A list as it was typed, as the JSON array that databases keep: "1, 2.50,,3" -> "[1, 2.50, null, 3]", each number as
/// it was written. nullopt for what is no list, or has a number that JSON has not. O(length).
std::optional<std::string> numberListTyped(std::string_view typed);

}  // namespace jollyrow
