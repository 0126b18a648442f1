// SPDX-License-Identifier: MIT
// The built-in functions, in alphabetical order: what completion offers and the binder looks up. A flat table.
#include <array>

#include "core/rules/op.h"

namespace jollyrow {
namespace {

using K = RuleKind;
using Kinds = std::array<RuleKind, 3>;

constexpr Kinds kReal = {K::Real, K::Real, K::Real};
constexpr Kinds kText = {K::Text, K::Text, K::Text};
constexpr Kinds kWhole = {K::Integer, K::Integer, K::Integer};
constexpr Kinds kExact = {K::Decimal, K::Decimal, K::Decimal};
constexpr Kinds kTextCount = {K::Text, K::Integer, K::Integer};
constexpr Kinds kTextCountText = {K::Text, K::Integer, K::Text};
constexpr Kinds kTextTextCount = {K::Text, K::Text, K::Integer};
constexpr Kinds kSpan = {K::Interval, K::Interval, K::Interval};
constexpr Kinds kClock = {K::Integer, K::Integer, K::Real};

constexpr std::array kFunctions = std::to_array<FunctionShape>({
    {"ABS", Op::Abs, 1, 1, "ABS(number)", "its size, without the sign"},
    {"ACOS", Op::ArcCosine, 1, 1, "ACOS(number)", "the angle of that cosine, in radians", kReal, K::Real},
    {"AGE", Op::Age, 1, 2, "AGE(timestamp, from timestamp)", "years, months and days from one to the other"},
    {"ASCII", Op::CodePoint, 1, 1, "ASCII(text)", "the code point of the first character", kText, K::Integer},
    {"ASIN", Op::ArcSine, 1, 1, "ASIN(number)", "the angle of that sine, in radians", kReal, K::Real},
    {"ATAN", Op::ArcTangent, 1, 1, "ATAN(number)", "the angle of that tangent, in radians", kReal, K::Real},
    {"ATAN2", Op::ArcTangent2, 2, 2, "ATAN2(y, x)", "the angle to the point (x, y), in radians", kReal, K::Real},
    {"BTRIM", Op::Trim, 1, 2, "BTRIM(text, characters)", "without those characters at both ends", kText, K::Text},
    {"CBRT", Op::CubeRoot, 1, 1, "CBRT(number)", "the cube root", kReal, K::Real},
    {"CEIL", Op::Ceiling, 1, 1, "CEIL(number)", "the next whole number up"},
    {"CEILING", Op::Ceiling, 1, 1, "CEILING(number)", "the next whole number up"},
    {"CHARACTER_LENGTH", Op::CharLength, 1, 1, "CHARACTER_LENGTH(text)", "how many characters", kText, K::Integer},
    {"CHAR_LENGTH", Op::CharLength, 1, 1, "CHAR_LENGTH(text)", "how many characters", kText, K::Integer},
    {"CHR", Op::Character, 1, 1, "CHR(code point)", "the character of that code point", kWhole, K::Text},
    {"COALESCE", Op::Coalesce, 1, 1000, "COALESCE(value, otherwise)", "the first that is not empty"},
    {"CONCAT", Op::Concat, 1, 1000, "CONCAT(text, text)", "joined, empty ones left out"},
    {"CONCAT_WS", Op::ConcatWith, 2, 1000, "CONCAT_WS(between, text, text)", "joined with a text between them"},
    {"COS", Op::Cosine, 1, 1, "COS(radians)", "the cosine", kReal, K::Real},
    {"COT", Op::Cotangent, 1, 1, "COT(radians)", "the cotangent", kReal, K::Real},
    {"DATE_TRUNC", Op::TruncateTime, 2, 2, "DATE_TRUNC('month', timestamp)", "where its month, week, day … begins"},
    {"DEGREES", Op::Degrees, 1, 1, "DEGREES(radians)", "radians as degrees", kReal, K::Real},
    {"DIV", Op::WholeQuotient, 2, 2, "DIV(number, by)", "how many times it goes, without the rest"},
    {"EXP", Op::Exponential, 1, 1, "EXP(number)", "e to that power"},
    {"FLOOR", Op::Floor, 1, 1, "FLOOR(number)", "the next whole number down"},
    {"FORMAT", Op::Format, 1, 1000, "FORMAT('%s of %s', value, value)", "a text with values put in for each %s"},
    {"GCD", Op::CommonDivisor, 2, 2, "GCD(whole number, whole number)", "the greatest divisor of both", kWhole,
     K::Integer},
    {"GREATEST", Op::Greatest, 1, 1000, "GREATEST(value, value)", "the largest that is not empty"},
    {"INITCAP", Op::InitialCapitals, 1, 1, "INITCAP(text)", "each word with a capital", kText, K::Text},
    {"JUSTIFY_DAYS", Op::JustifyDays, 1, 1, "JUSTIFY_DAYS(span)", "30 days become a month", kSpan, K::Interval},
    {"JUSTIFY_HOURS", Op::JustifyHours, 1, 1, "JUSTIFY_HOURS(span)", "24 hours become a day", kSpan, K::Interval},
    {"JUSTIFY_INTERVAL", Op::JustifyInterval, 1, 1, "JUSTIFY_INTERVAL(span)", "both, with one sign", kSpan,
     K::Interval},
    {"LCM", Op::CommonMultiple, 2, 2, "LCM(whole number, whole number)", "the least multiple of both", kWhole,
     K::Integer},
    {"LEAST", Op::Least, 1, 1000, "LEAST(value, value)", "the smallest that is not empty"},
    {"LEFT", Op::Left, 2, 2, "LEFT(text, count)", "so many characters of its beginning", kTextCount, K::Text},
    {"LENGTH", Op::CharLength, 1, 1, "LENGTH(text)", "how many characters", kText, K::Integer},
    {"LN", Op::Logarithm, 1, 1, "LN(number)", "the natural logarithm"},
    {"LOG", Op::Logarithm10, 1, 2, "LOG(base, number)", "the logarithm; of base 10 without one"},
    {"LOG10", Op::Logarithm10, 1, 1, "LOG10(number)", "the logarithm of base 10"},
    {"LOWER", Op::Lower, 1, 1, "LOWER(text)", "in small letters", kText, K::Text},
    {"LPAD", Op::PadLeft, 2, 3, "LPAD(text, length, fill)", "filled up before it, or cut, to that length",
     kTextCountText, K::Text},
    {"LTRIM", Op::TrimLeading, 1, 2, "LTRIM(text, characters)", "without those characters before it", kText, K::Text},
    {"MAKE_DATE", Op::MakeDate, 3, 3, "MAKE_DATE(year, month, day)", "that day", kWhole, K::Date},
    {"MAKE_INTERVAL", Op::MakeInterval, 0, 7, "MAKE_INTERVAL(years, months, weeks, days, hours, minutes, seconds)",
     "that span of time"},
    {"MAKE_TIME", Op::MakeTime, 3, 3, "MAKE_TIME(hour, minute, seconds)", "that time of day", kClock, K::Time},
    {"MAKE_TIMESTAMP", Op::MakeTimestamp, 6, 6, "MAKE_TIMESTAMP(year, month, day, hour, minute, seconds)",
     "that day and time"},
    {"MAKE_TIMESTAMPTZ", Op::MakeTimestamp, 6, 7, "MAKE_TIMESTAMPTZ(year, month, day, hour, minute, seconds, zone)",
     "that point of time, on the clocks of a zone"},
    {"MIN_SCALE", Op::LeastScale, 1, 1, "MIN_SCALE(decimal)", "how many decimals it needs", kExact, K::Integer},
    {"MOD", Op::Modulo, 2, 2, "MOD(number, by)", "the rest of a division"},
    {"NULLIF", Op::NullIf, 2, 2, "NULLIF(value, other)", "empty where both are equal"},
    {"OCTET_LENGTH", Op::OctetLength, 1, 1, "OCTET_LENGTH(text)", "how many bytes in UTF-8", kText, K::Integer},
    {"OVERLAY", Op::Overlay, 3, 4, "OVERLAY(text PLACING new FROM start FOR length)", "with a part replaced by place",
     kTextTextCount, K::Text},
    {"POSITION", Op::Position, 2, 2, "POSITION(part IN text)", "where the part begins, 0 where it is not", kText,
     K::Integer},
    {"POW", Op::Power, 2, 2, "POW(number, exponent)", "the number to that power"},
    {"POWER", Op::Power, 2, 2, "POWER(number, exponent)", "the number to that power"},
    {"RADIANS", Op::Radians, 1, 1, "RADIANS(degrees)", "degrees as radians", kReal, K::Real},
    {"REGEXP_COUNT", Op::MatchCount, 2, 4, "REGEXP_COUNT(text, pattern, start, flags)",
     "how often a regular expression is found"},
    {"REGEXP_INSTR", Op::MatchPosition, 2, 7, "REGEXP_INSTR(text, pattern, start, which, end, flags, group)",
     "where a regular expression is found, 0 where not"},
    {"REGEXP_LIKE", Op::Matches, 2, 3, "REGEXP_LIKE(text, pattern, flags)", "whether a regular expression is found",
     kText, K::Boolean},
    {"REGEXP_REPLACE", Op::MatchReplace, 3, 6, "REGEXP_REPLACE(text, pattern, new, flags)",
     "with what a regular expression finds replaced; \\1 is its first group"},
    {"REGEXP_SUBSTR", Op::MatchText, 2, 6, "REGEXP_SUBSTR(text, pattern, start, which, flags, group)",
     "what a regular expression finds"},
    {"REPEAT", Op::Repeat, 2, 2, "REPEAT(text, times)", "the text so many times", kTextCount, K::Text},
    {"REPLACE", Op::Replace, 3, 3, "REPLACE(text, part, new)", "with every such part replaced", kText, K::Text},
    {"REVERSE", Op::Reverse, 1, 1, "REVERSE(text)", "from its end to its beginning", kText, K::Text},
    {"RIGHT", Op::Right, 2, 2, "RIGHT(text, count)", "so many characters of its end", kTextCount, K::Text},
    {"ROUND", Op::Round, 1, 2, "ROUND(number, decimals)", "rounded, half away from zero"},
    {"RPAD", Op::PadRight, 2, 3, "RPAD(text, length, fill)", "filled up behind it, or cut, to that length",
     kTextCountText, K::Text},
    {"RTRIM", Op::TrimTrailing, 1, 2, "RTRIM(text, characters)", "without those characters behind it", kText, K::Text},
    {"SCALE", Op::ScaleOf, 1, 1, "SCALE(decimal)", "how many decimals it has", kExact, K::Integer},
    {"SIGN", Op::Sign, 1, 1, "SIGN(number)", "-1, 0 or 1"},
    {"SIN", Op::Sine, 1, 1, "SIN(radians)", "the sine", kReal, K::Real},
    {"SPLIT_PART", Op::SplitPart, 3, 3, "SPLIT_PART(text, between, which)", "the n-th part between such texts",
     kTextTextCount, K::Text},
    {"SQRT", Op::SquareRoot, 1, 1, "SQRT(number)", "the square root"},
    {"SUBSTR", Op::Substring, 2, 3, "SUBSTR(text, start, length)", "a part, by place"},
    {"SUBSTRING", Op::Substring, 2, 3, "SUBSTRING(text FROM start FOR length)", "a part, by place or by a pattern"},
    {"TAN", Op::Tangent, 1, 1, "TAN(radians)", "the tangent", kReal, K::Real},
    {"TO_CHAR", Op::NumberToText, 2, 2, "TO_CHAR(value, 'YYYY-MM-DD')", "a date or number written by a pattern"},
    {"TO_DATE", Op::TextToDate, 2, 2, "TO_DATE(text, 'DD.MM.YYYY')", "the day a text states by a pattern", kText,
     K::Date},
    {"TO_NUMBER", Op::TextToNumber, 2, 2, "TO_NUMBER(text, '9G999D99')", "the number a text states by a pattern", kText,
     K::Decimal},
    {"TO_TIMESTAMP", Op::TextToTimestamp, 1, 2, "TO_TIMESTAMP(text, 'DD.MM.YYYY HH24:MI')",
     "the point of time a text states by a pattern, or of so many seconds since 1970"},
    {"TRANSLATE", Op::Translate, 3, 3, "TRANSLATE(text, characters, new characters)", "with characters exchanged",
     kText, K::Text},
    {"TRIM", Op::Trim, 1, 2, "TRIM(BOTH characters FROM text)", "without those characters at its ends", kText, K::Text},
    {"TRIM_SCALE", Op::TrimScale, 1, 1, "TRIM_SCALE(decimal)", "without zeros behind its decimals", kExact, K::Decimal},
    {"TRUNC", Op::Truncate, 1, 2, "TRUNC(number, decimals)", "cut off, towards zero"},
    {"UPPER", Op::Upper, 1, 1, "UPPER(text)", "in capitals", kText, K::Text},
    {"WIDTH_BUCKET", Op::WidthBucket, 4, 4, "WIDTH_BUCKET(number, low, high, count)",
     "in which of so many equal parts it falls"},
});

struct NamedAggregate {
    std::string_view name;
    Aggregate aggregate{};
    std::string_view form;
    std::string_view help;
};
// Of one that has several names the first is written.
constexpr std::array kAggregates = std::to_array<NamedAggregate>({
    {"COUNT", Aggregate::Count, "COUNT(*) OVER (PARTITION BY column)", "how many records"},
    {"SUM", Aggregate::Sum, "SUM(number) OVER (PARTITION BY column)", "the sum over records"},
    {"AVG", Aggregate::Average, "AVG(number) OVER (PARTITION BY column)", "the mean over records"},
    {"MIN", Aggregate::Minimum, "MIN(value) OVER (PARTITION BY column)", "the smallest over records"},
    {"MAX", Aggregate::Maximum, "MAX(value) OVER (PARTITION BY column)", "the largest over records"},
    {"VAR_SAMP", Aggregate::Variance, "VAR_SAMP(number) OVER ()", "the variance of a sample"},
    {"VARIANCE", Aggregate::Variance, "VARIANCE(number) OVER ()", "the variance of a sample"},
    {"VAR_POP", Aggregate::VariancePopulation, "VAR_POP(number) OVER ()", "the variance of all"},
    {"STDDEV_SAMP", Aggregate::Deviation, "STDDEV_SAMP(number) OVER ()", "the deviation of a sample"},
    {"STDDEV", Aggregate::Deviation, "STDDEV(number) OVER ()", "the deviation of a sample"},
    {"STDDEV_POP", Aggregate::DeviationPopulation, "STDDEV_POP(number) OVER ()", "the deviation of all"},
    {"BOOL_AND", Aggregate::Every, "BOOL_AND(condition) OVER (PARTITION BY column)", "whether it is so for all"},
    {"EVERY", Aggregate::Every, "EVERY(condition) OVER (PARTITION BY column)", "whether it is so for all"},
    {"BOOL_OR", Aggregate::AnyOf, "BOOL_OR(condition) OVER (PARTITION BY column)", "whether it is so for one"},
    {"STRING_AGG", Aggregate::Joined, "STRING_AGG(text, between) OVER (PARTITION BY column)", "the texts joined"},
    {"FIRST_VALUE", Aggregate::First, "FIRST_VALUE(value) OVER (ORDER BY column)", "of the first record"},
    {"LAST_VALUE", Aggregate::Last, "LAST_VALUE(value) OVER (ORDER BY column)", "of the last record"},
    {"NTH_VALUE", Aggregate::Nth, "NTH_VALUE(value, which) OVER (ORDER BY column)", "of the n-th record"},
    {"ROW_NUMBER", Aggregate::RowNumber, "ROW_NUMBER() OVER (ORDER BY column)", "1, 2, 3 …"},
    {"RANK", Aggregate::Rank, "RANK() OVER (ORDER BY column)", "its place, equal ones share it"},
    {"DENSE_RANK", Aggregate::DenseRank, "DENSE_RANK() OVER (ORDER BY column)", "its place, without gaps"},
    {"PERCENT_RANK", Aggregate::PercentRank, "PERCENT_RANK() OVER (ORDER BY column)", "its place, from 0 to 1"},
    {"CUME_DIST", Aggregate::CumulativeShare, "CUME_DIST() OVER (ORDER BY column)", "the share of records up to it"},
    {"NTILE", Aggregate::Tile, "NTILE(parts) OVER (ORDER BY column)", "in which of so many equal parts it is"},
    {"LAG", Aggregate::Lag, "LAG(value, records, otherwise) OVER (ORDER BY column)", "of a record before it"},
    {"LEAD", Aggregate::Lead, "LEAD(value, records, otherwise) OVER (ORDER BY column)", "of a record behind it"},
});
constexpr auto kAggregateNames = [] {
    std::array<std::string_view, kAggregates.size()> names{};
    for (std::size_t i = 0; i < names.size(); ++i) names[i] = kAggregates[i].name;
    return names;
}();

constexpr const NamedAggregate* entryOf(Aggregate aggregate) {
    for (const NamedAggregate& named : kAggregates)
        if (named.aggregate == aggregate) return &named;
    return nullptr;
}

}  // namespace

const FunctionShape* FunctionList::begin() const { return kFunctions.data(); }
const FunctionShape* FunctionList::end() const { return kFunctions.data() + kFunctions.size(); }

const FunctionShape* findFunction(std::string_view upperName) {
    for (const FunctionShape& shape : kFunctions)
        if (shape.name == upperName) return &shape;
    return nullptr;
}

std::optional<Aggregate> aggregateFromName(std::string_view upperName) {
    for (const NamedAggregate& named : kAggregates)
        if (named.name == upperName) return named.aggregate;
    return std::nullopt;
}
std::string_view name(Aggregate aggregate) {
    const NamedAggregate* named = entryOf(aggregate);
    return named ? named->name : std::string_view();
}
std::string_view formOf(Aggregate aggregate) {
    const NamedAggregate* named = entryOf(aggregate);
    return named ? named->form : std::string_view();
}
std::string_view helpOf(Aggregate aggregate) {
    const NamedAggregate* named = entryOf(aggregate);
    return named ? named->help : std::string_view();
}
std::span<const std::string_view> aggregateNames() { return kAggregateNames; }

}  // namespace jollyrow
