// SPDX-License-Identifier: MIT
#pragma once
// Value: one boxed value, for the edges only (an editor, the clipboard, a record handed to an application, an edit).
// Inside, values live in typed columns.

#include <cstdint>
#include <string>
#include <variant>

#include "core/columns/decimal.h"

namespace jollyrow {

struct Empty {
    bool operator==(const Empty&) const = default;
};
struct Date {
    std::int32_t days = 0;
    bool operator==(const Date&) const = default;
};
struct Time {
    std::int64_t micros = 0;
    bool operator==(const Time&) const = default;
};
struct Timestamp {
    std::int64_t micros = 0;
    bool operator==(const Timestamp&) const = default;
};
struct Bytes {
    std::string data;
    bool operator==(const Bytes&) const = default;
};

/// Empty is SQL's NULL. A text of length zero is not Empty.
using Value = std::variant<Empty, bool, std::int64_t, Decimal, double, std::string, Date, Time, Timestamp, Bytes>;

inline bool isEmpty(const Value& value) { return std::holds_alternative<Empty>(value); }

}  // namespace jollyrow
