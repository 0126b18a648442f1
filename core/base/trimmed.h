// SPDX-License-Identifier: MIT
#pragma once

#include <string_view>

namespace jollyrow {

/// Without the ASCII white space around it. O(what is taken away).
constexpr std::string_view trimmed(std::string_view text) {
    const auto blank = [](char c) { return c == ' ' || (c >= '\t' && c <= '\r'); };
    while (!text.empty() && blank(text.front())) text.remove_prefix(1);
    while (!text.empty() && blank(text.back())) text.remove_suffix(1);
    return text;
}

}  // namespace jollyrow
