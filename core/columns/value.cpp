// SPDX-License-Identifier: MIT
#include "core/columns/value.h"

#include <cmath>

namespace jollyrow {

Value::Value() noexcept = default;
Value::Value(const Value& other) = default;
Value::Value(Value&& other) noexcept = default;
Value& Value::operator=(const Value& other) = default;
Value& Value::operator=(Value&& other) noexcept = default;
Value::~Value() = default;
/// Of stored values: NaN is the same as NaN, as databases have it, or a record that holds one would have been changed
/// by somebody whenever it is looked at.
bool operator==(const Value& a, const Value& b) {
    const auto *x = std::get_if<double>(&a), *y = std::get_if<double>(&b);
    if (x && y && std::isnan(*x) && std::isnan(*y)) return true;
    return static_cast<const Value::variant&>(a) == static_cast<const Value::variant&>(b);
}

}  // namespace jollyrow
