// SPDX-License-Identifier: MIT
#pragma once
// The names in the braces of a message pattern (ICU MessageFormat), told from braces and words that are text.

#include <functional>
#include <string>

namespace jollyrow {

/// The pattern with each name, also one in a branch of a plural or select, as `renamed` gives it. A pattern that cannot
/// be read stays as it is. O(length).
std::string withNamesRenamed(const std::string& pattern,
                             const std::function<std::string(const std::string& name)>& renamed);
/// It can stand in braces: no white space and no character of ICU's pattern syntax but the full stop of a path.
bool canStandInBraces(const std::string& name);

}  // namespace jollyrow
