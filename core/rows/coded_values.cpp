// SPDX-License-Identifier: MIT
// Covered by tests/rows/group_test.cpp.
#include "core/rows/coded_values.h"

#include <algorithm>
#include <bit>
#include <cmath>

#include "core/rules/conversion.h"

namespace jollyrow {
namespace {

bool isSame(const EvaluatedCell& value, const EvaluatedCell& wanted) {
    if (value.state != wanted.state || wanted.state != CellState::Filled) return value.state == wanted.state;
    const auto *text = std::get_if<std::string>(&value.value), *other = std::get_if<std::string>(&wanted.value);
    if (text && other) return *text == *other;
    const auto *real = std::get_if<double>(&value.value), *number = std::get_if<double>(&wanted.value);
    if (real && number) return *real == *number || (std::isnan(*real) && std::isnan(*number));
    return compareValues(value.value, wanted.value) == 0;
}

}  // namespace

RuleValue valueOfBits(std::int64_t bits, RuleType type) {
    switch (type.kind) {
        case RuleKind::Boolean: return bits != 0;
        case RuleKind::Real: return std::bit_cast<double>(bits);
        case RuleKind::Date: return Date{static_cast<std::int32_t>(bits)};
        case RuleKind::Time: return Time{bits};
        case RuleKind::Timestamp: return Timestamp{bits};
        case RuleKind::Instant: return Instant{bits};
        case RuleKind::Decimal: return WideDecimal{bits, type.scale};
        default: return bits;
    }
}

std::optional<std::uint32_t> CodedValues::find(const EvaluatedCell& value) const {
    if (value.state == CellState::Filled)
        for (std::size_t code = 0; code < numbers_.size(); ++code)
            if (isSame(at(code), value)) return static_cast<std::uint32_t>(code);
    const auto found =
        std::find_if(boxed_.begin(), boxed_.end(), [&](const EvaluatedCell& cell) { return isSame(cell, value); });
    if (found == boxed_.end()) return std::nullopt;
    return static_cast<std::uint32_t>(numbers_.size() + static_cast<std::size_t>(found - boxed_.begin()));
}

}  // namespace jollyrow
