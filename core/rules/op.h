// SPDX-License-Identifier: MIT
#pragma once
// The closed set of operations of the rule language: operators, special forms and built-in functions.

#include <array>
#include <cstdint>
#include <optional>
#include <span>
#include <string_view>

#include "core/rules/rule_type.h"

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
    Logarithm,    ///< natural
    Logarithm10,  ///< LOG: of base 10, or of a base that stands before the number
    CubeRoot,
    Degrees,
    Radians,
    Sine,
    Cosine,
    Tangent,
    Cotangent,
    ArcSine,
    ArcCosine,
    ArcTangent,
    ArcTangent2,
    WholeQuotient,  ///< DIV: truncated
    CommonDivisor,
    CommonMultiple,
    ScaleOf,
    LeastScale,
    TrimScale,
    WidthBucket,
    BitAnd,
    BitOr,
    BitExclusiveOr,
    BitNot,
    ShiftLeft,
    ShiftRight,
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
    InitialCapitals,
    Translate,
    SplitPart,
    ConcatWith,  ///< CONCAT_WS: empties left out, with a text between the others
    CodePoint,   ///< ASCII: of the first character
    Character,   ///< CHR
    Format,      ///< FORMAT('%s', …)
    CollationKey,  ///< a text whose order is that of the text in a collation, named by the second operand
    // patterns: regular expressions as ICU has them (UTS #18)
    Matches,   ///< LIKE_REGEX, REGEXP_LIKE
    SimilarTo,
    MatchCount,
    MatchPosition,
    MatchText,
    MatchReplace,
    // written forms
    NumberToText,  ///< TO_CHAR
    MomentToText,
    TextToNumber,
    TextToDate,
    TextToTimestamp,
    // dates and times
    Extract,
    TruncateTime,  ///< DATE_TRUNC
    MakeDate,
    MakeTime,
    MakeTimestamp,
    MakeInterval,
    EpochToInstant,  ///< TO_TIMESTAMP of seconds
    JustifyHours,
    JustifyDays,
    JustifyInterval,
    AtZone,  ///< AT TIME ZONE: a clock's time as an instant, and the reverse
    Age,
    CurrentDate,
    CurrentTimestamp,
    // others
    Cast,
    External,  ///< a function of the application
    Window,    ///< computed over all records before the rest: its result is loaded
};

/// Parts of EXTRACT.
enum class DatePart : std::uint8_t {
    Millennium,  ///< the third began with 2001
    Century,
    Decade,  ///< the year / 10
    Year,
    Quarter,
    Month,
    Week,     ///< ISO 8601
    IsoYear,  ///< of that week
    Day,
    DayOfYear,
    DayOfWeek,     ///< 0 = Sunday
    IsoDayOfWeek,  ///< 1 = Monday
    Epoch,         ///< seconds since 1970-01-01 00:00, or of the whole span, with six decimals
    Hour,
    Minute,
    Second,        ///< with six decimals
    Milliseconds,  ///< the seconds, counted in these, with three decimals
    Microseconds,
};
std::optional<DatePart> datePartFromName(std::string_view upperName);
std::string_view name(DatePart part);
/// Decimals of what EXTRACT gives.
constexpr int decimalsOf(DatePart part) {
    constexpr int kMicros = 6, kMillis = 3;
    if (part == DatePart::Second || part == DatePart::Epoch) return kMicros;
    return part == DatePart::Milliseconds ? kMillis : 0;
}
/// Where DATE_TRUNC cuts, of "month" or "months", whatever their case; nullopt for what it does not know.
std::optional<DatePart> truncationFromName(std::string_view name);

/// What is computed over many records.
enum class Aggregate : std::uint8_t {
    // sums, of the frame
    Count,
    Sum,
    Average,
    Minimum,
    Maximum,
    Variance,  ///< of a sample
    VariancePopulation,
    Deviation,
    DeviationPopulation,
    Every,   ///< BOOL_AND
    AnyOf,   ///< BOOL_OR
    Joined,  ///< STRING_AGG
    External,
    // values of one record of the frame
    First,
    Last,
    Nth,
    // by the order alone, whatever the frame
    RowNumber,
    Rank,
    DenseRank,
    PercentRank,
    CumulativeShare,  ///< CUME_DIST
    Tile,             ///< NTILE
    Lag,
    Lead,
};
std::optional<Aggregate> aggregateFromName(std::string_view upperName);
std::string_view name(Aggregate aggregate);
/// How it is written, for completion and messages: "LAG(value, records, otherwise) OVER (ORDER BY …)".
std::string_view formOf(Aggregate aggregate);
std::string_view helpOf(Aggregate aggregate);
/// Sums up the records of its frame.
constexpr bool isSum(Aggregate aggregate) { return aggregate <= Aggregate::External; }
/// Looks at its frame; the others go by the order alone.
constexpr bool readsFrame(Aggregate aggregate) { return aggregate <= Aggregate::Nth; }
/// All names, for completion and suggestions.
std::span<const std::string_view> aggregateNames();

/// A function as it is called by name.
struct FunctionShape {
    std::string_view name;  ///< upper case
    Op op{};
    int least = 0;  ///< arguments
    int most = 0;
    std::string_view form;  ///< how it is written, for completion and messages
    std::string_view help;  ///< what it gives, in a few words
    /// Where each argument is of one kind whatever the others are; the last one stands for all behind it.
    std::array<RuleKind, 3> takes = {};
    RuleKind gives = RuleKind::Null;  ///< Null: `takes` says nothing, kinds depend on the arguments
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
