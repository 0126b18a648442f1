// SPDX-License-Identifier: MIT
// Covered by tests/design/face_test.cpp.
#include "core/columns/number_list.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <limits>

#include "core/base/trimmed.h"

namespace jollyrow {

std::optional<std::vector<double>> numbersIn(std::string_view list) {
    constexpr double kGap = std::numeric_limits<double>::quiet_NaN();
    list = trimmed(list);
    if (!list.empty() && list.front() == '[') {
        if (list.back() != ']') return std::nullopt;
        list = trimmed(list.substr(1, list.size() - 2));
    }
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
