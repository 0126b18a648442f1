// SPDX-License-Identifier: MIT
#pragma once
// The names that a message pattern uses (ICU MessageFormat), before it is made ready.

#include <string>

namespace jollyrow {

/// Names in braces, with whether a type follows ("hours, number").
template <class Visit>
void forEachArgument(const std::string& pattern, const Visit& visit) {
    for (std::size_t at = pattern.find('{'); at != std::string::npos; at = pattern.find('{', at + 1)) {
        const std::size_t start = pattern.find_first_not_of(' ', at + 1);
        const std::size_t end = pattern.find_first_of(" ,}{", start == std::string::npos ? at : start);
        if (start == std::string::npos || end == std::string::npos) return;
        const std::size_t next = pattern.find_first_not_of(' ', end);
        if (next == std::string::npos) return;  // breaks off behind the name
        visit(pattern.substr(start, end - start), pattern[next] == ',');
    }
}

}  // namespace jollyrow
