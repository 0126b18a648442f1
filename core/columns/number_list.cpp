// SPDX-License-Identifier: MIT
// Covered by tests/design/face_test.cpp.
#include "core/columns/number_list.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <limits>

#include "core/base/trimmed.h"

namespace jollyrow {

namespace {

/// Without the brackets around it; nullopt when there is but one.
std::optional<std::string_view> insideOf(std::string_view list) {
    list = trimmed(list);
    if (list.empty() || list.front() != '[') return list;
    if (list.size() < 2 || list.back() != ']') return std::nullopt;
    return trimmed(list.substr(1, list.size() - 2));
}

/// -?(0|[1-9]\d*)(\.\d+)?([eE][+-]?\d+)? of RFC 8259.
bool isJsonNumber(std::string_view text) {
    std::size_t at = 0;
    const auto digits = [&] {
        const std::size_t from = at;
        while (at < text.size() && text[at] >= '0' && text[at] <= '9') ++at;
        return at - from;
    };
    if (at < text.size() && text[at] == '-') ++at;
    const std::size_t first = at;
    const std::size_t whole = digits();
    if (whole == 0 || (whole > 1 && text[first] == '0')) return false;
    if (at < text.size() && text[at] == '.' && (++at, digits() == 0)) return false;
    if (at < text.size() && (text[at] == 'e' || text[at] == 'E')) {
        ++at;
        if (at < text.size() && (text[at] == '+' || text[at] == '-')) ++at;
        if (digits() == 0) return false;
    }
    return at == text.size();
}

}  // namespace

std::optional<std::string> numberListTyped(std::string_view typed) {
    const auto inside = insideOf(typed);
    if (!inside) return std::nullopt;
    if (inside->empty()) return "[]";
    std::string list = "[";
    std::size_t count = 0;
    for (std::size_t start = 0; start <= inside->size();) {
        if (count++ == kMostListed) return std::nullopt;
        const std::size_t comma = std::min(inside->find(',', start), inside->size());
        const std::string_view one = trimmed(inside->substr(start, comma - start));
        if (!one.empty() && one != "null" && !isJsonNumber(one)) return std::nullopt;
        list.append(count == 1 ? "" : ", ").append(one.empty() ? "null" : one);
        start = comma + 1;
    }
    return list + "]";
}

std::optional<std::vector<double>> numbersIn(std::string_view list) {
    constexpr double kGap = std::numeric_limits<double>::quiet_NaN();
    const auto inside = insideOf(list);
    if (!inside) return std::nullopt;
    list = *inside;
    std::vector<double> numbers;
    if (list.empty()) return numbers;
    for (std::size_t start = 0; start <= list.size();) {
        if (numbers.size() == kMostListed) return std::nullopt;
        const std::size_t comma = std::min(list.find(',', start), list.size());
        const std::string_view one = trimmed(list.substr(start, comma - start));
        double number = kGap;
        const auto [end, error] = std::from_chars(one.data(), one.data() + one.size(), number);
        const bool isGap = one == "null" || one == "NaN" || one.empty();
        if (!isGap && (error != std::errc() || end != one.data() + one.size())) return std::nullopt;
        numbers.push_back(isGap || !std::isfinite(number) ? kGap : number);
        start = comma + 1;
    }
    return numbers;
}

}  // namespace jollyrow
