// SPDX-License-Identifier: MIT
#include "core/columns/value.h"

namespace jollyrow {

Value::Value() noexcept = default;
Value::Value(const Value& other) = default;
Value::Value(Value&& other) noexcept = default;
Value& Value::operator=(const Value& other) = default;
Value& Value::operator=(Value&& other) noexcept = default;
Value::~Value() = default;
bool operator==(const Value& a, const Value& b) {
    return static_cast<const Value::variant&>(a) == static_cast<const Value::variant&>(b);
}

}  // namespace jollyrow
