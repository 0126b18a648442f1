// SPDX-License-Identifier: MIT
#pragma once
// A number as it is written for people, with its groups and its true minus, as it is typed: what one copies elsewhere
// may have been either.

#include <algorithm>
#include <iterator>
#include <string>
#include <string_view>

namespace jollyrow {

/// "−1 234.5" with thin or hard spaces -> "-1234.5"; any other text as it is. O(length).
inline std::string plainLabel(std::string_view label) {
    constexpr std::string_view kSpaces[] = {"\u2009", "\u202f", "\u00a0"}, kMinus = "\u2212";
    std::string plain;
    bool hasDigit = false;
    for (std::size_t i = 0; i < label.size();) {
        const std::string_view rest = label.substr(i);
        const auto* space = std::find_if(std::begin(kSpaces), std::end(kSpaces),
                                         [&](std::string_view s) { return rest.starts_with(s); });
        if (space != std::end(kSpaces)) {
            i += space->size();
        } else if (rest.starts_with(kMinus) && plain.empty()) {
            plain += '-';
            i += kMinus.size();
        } else if ((rest[0] >= '0' && rest[0] <= '9') || rest[0] == '.' || (rest[0] == '-' && plain.empty())) {
            hasDigit = hasDigit || (rest[0] >= '0' && rest[0] <= '9');
            plain += rest[0];
            ++i;
        } else {
            return std::string(label);
        }
    }
    return hasDigit ? plain : std::string(label);
}

}  // namespace jollyrow
