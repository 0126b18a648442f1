// SPDX-License-Identifier: MIT
#pragma once
// The types a rule's parts can have, the values they take, and what can go wrong in one cell.

#include <cstdint>
#include <string>
#include <string_view>
#include <variant>

#include "core/columns/interval.h"
#include "core/columns/type.h"
#include "core/columns/value.h"
#include "core/columns/wide_decimal.h"

namespace jollyrow {

enum class RuleKind : std::uint8_t {
    Null,     ///< NULL alone, which fits every type
    Boolean,  ///< three-valued: true, false, empty
    Integer,  ///< 64 bits
    Decimal,  ///< exact, up to 38 digits
    Real,     ///< IEEE 754 double
    Text,
    Date,
    Time,
    Timestamp,
    Instant,  ///< a point of time; beside dates and timestamps these are of the program's zone
    Interval,
};

struct RuleType {
    static constexpr int kVaries = -1;
    RuleKind kind = RuleKind::Null;
    int scale = 0;  ///< decimals of a Decimal; kVaries when they differ from record to record
    bool operator==(const RuleType&) const = default;
};

/// The standard's name: "DECIMAL(…, 2)" is written "decimal".
std::string_view name(RuleKind kind);
/// "a whole number", "yes or no": for sentences.
std::string_view article(RuleKind kind);
RuleKind ruleKindOf(Type type);
/// Requires: not Null, not Interval.
Type columnTypeOf(RuleKind kind);
constexpr bool isNumber(RuleKind kind) {
    return kind == RuleKind::Integer || kind == RuleKind::Decimal || kind == RuleKind::Real;
}
constexpr bool isIntegral(RuleKind kind) {
    return kind == RuleKind::Integer || kind == RuleKind::Date || kind == RuleKind::Time ||
           kind == RuleKind::Timestamp || kind == RuleKind::Instant;
}
/// Has a day: a date, or a date and time.
constexpr bool hasDay(RuleKind kind) {
    return kind == RuleKind::Date || kind == RuleKind::Timestamp || kind == RuleKind::Instant;
}

/// One boxed value inside the language: constants, parameters, arguments of registered functions. A class of its own as
/// Value is.
struct RuleValue : std::variant<Empty, bool, std::int64_t, WideDecimal, double, std::string, Date, Time, Timestamp,
                                Instant, Interval> {
    using variant::variant;
    RuleValue() noexcept;
    RuleValue(const RuleValue& other);
    RuleValue(RuleValue&& other) noexcept;
    RuleValue& operator=(const RuleValue& other);
    RuleValue& operator=(RuleValue&& other) noexcept;
    ~RuleValue();
    friend bool operator==(const RuleValue& a, const RuleValue& b);
    friend bool operator<(const RuleValue&, const RuleValue&) = delete;  // not all of what it may hold has an order
};
RuleKind kindOf(const RuleValue& value);
/// Empty for what rules have no value of: binary data, and misfits (whose state is CellState::Misfit).
RuleValue ruleValue(const Value& value);
/// Intervals become text.
Value plainValue(const RuleValue& value);

/// State of one cell of a result. From DivisionByZero on it is an error, and there is no value.
enum class CellState : std::uint8_t {
    Filled = 0,
    Empty = 1,
    DivisionByZero = 2,
    TooLarge = 3,         ///< past 64 bits, 38 digits, the largest double, or year 9999
    NotConvertible = 4,   ///< CAST of a text that is not such a value
    NoSuchDate = 5,       ///< a date or time that does not exist
    NegativeLength = 6,   ///< SUBSTRING … FOR -1
    NotDefined = 7,       ///< SQRT(-1), LN(0)
    BadPattern = 8,       ///< LIKE pattern or escape that makes no sense
    TextTooLong = 9,      ///< more than 16 MB in one value
    FunctionFailed = 10,  ///< a registered function said no
    PatternTooSlow = 12,  ///< a regular expression that looks at a text too often, or too deep
    Misfit = 11,          ///< what is stored is no value of the column's type; sums leave it out and say so
};
constexpr bool isError(CellState state) { return state > CellState::Empty; }
/// "division by zero".
std::string_view words(CellState state);

}  // namespace jollyrow
