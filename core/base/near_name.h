// SPDX-License-Identifier: MIT
#pragma once
// The name most like a mistyped one, for messages that suggest a mending.

#include <optional>
#include <span>
#include <string>
#include <string_view>

namespace jollyrow {

/// Levenshtein distance over bytes, case ignored. O(a * b).
std::size_t editDistance(std::string_view a, std::string_view b);
/// The same but for the case of ASCII letters.
bool sameName(std::string_view a, std::string_view b);
/// nullopt when nothing is within a third of the name's length (at least 2 edits).
std::optional<std::string> nearestName(std::string_view wanted, std::span<const std::string> known);

}  // namespace jollyrow
