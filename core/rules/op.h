// SPDX-License-Identifier: MIT
#pragma once
// The closed set of operations of the rule language: operators, special forms and built-in functions.

#include <cstdint>
#include <optional>
#include <string_view>

namespace jollyrow {

enum class Op : std::uint8_t {
    // leaves
    Constant,
    Load,       ///< a field of the record
    Parameter,  ///< `:name`
    // logic
    And,
    Or,
    Not,
    IsNull,
    IsTrue,
    IsFalse,
    // comparison; operands of one kind
    Equal,
    NotEqual,
    Less,
    LessEqual,
    Greater,
    GreaterEqual,
    Distinct,  ///< IS DISTINCT FROM
    In,        ///< first operand against the others
    // choice
    Case,  ///< condition, value, condition, value …, value otherwise
    Coalesce,
    NullIf,
    Greatest,
    Least,
    // numbers
    Add,
    Subtract,
    Multiply,
    Divide,
    Modulo,
    Negate,
    Abs,
    Sign,
    Floor,
    Ceiling,
    Round,
    Truncate,
    SquareRoot,
    Power,
    Exponential,
    Logarithm,
    // texts
    Concatenate,  ///< ||: empty when one side is
    Concat,       ///< CONCAT: empties left out
    Like,
    Upper,
    Lower,
    CharLength,
    OctetLength,
    Substring,
    Position,
    Trim,
    TrimLeading,
    TrimTrailing,
    Overlay,
    Left,
    Right,
    PadLeft,
    PadRight,
    Replace,
    Repeat,
    Reverse,
    // dates and times
    Extract,
    CurrentDate,
    CurrentTimestamp,
    // others
    Cast,
    External,  ///< a function of the application
    Window,    ///< computed over all records before the rest: its result is loaded
};

/// Parts of EXTRACT.
enum class DatePart : std::uint8_t {
    Year,
    Quarter,
    Month,
    Week,     ///< ISO 8601
    IsoYear,  ///< of that week
    Day,
    DayOfYear,
    IsoDayOfWeek,  ///< 1 = Monday
    Hour,
    Minute,
    Second,  ///< with six decimals
};
std::optional<DatePart> datePartFromName(std::string_view upperName);
std::string_view name(DatePart part);

/// What is computed over many records.
enum class Aggregate : std::uint8_t { Count, Sum, Average, Minimum, Maximum, External, RowNumber, Rank, PercentRank };
std::optional<Aggregate> aggregateFromName(std::string_view upperName);
std::string_view name(Aggregate aggregate);

/// A function as it is called by name.
struct FunctionShape {
    std::string_view name;  ///< upper case
    Op op{};
    int least = 0;  ///< arguments
    int most = 0;
    std::string_view form;  ///< how it is written, for completion and messages
};
const FunctionShape* findFunction(std::string_view upperName);
/// All names, for completion and suggestions.
struct FunctionList {
    const FunctionShape* begin() const;
    const FunctionShape* end() const;
};
/// The sign of an operator, "" when it has none: "<>", "||".
std::string_view symbolOf(Op op);
/// For dumps and messages: the symbol or the function's name.
std::string_view name(Op op);

}  // namespace jollyrow
