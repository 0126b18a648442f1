// SPDX-License-Identifier: MIT
#include "core/rules/op.h"

#include <array>
#include <string>
#include <utility>

namespace jollyrow {
namespace {

using K = RuleKind;
constexpr std::array kFunctions = std::to_array<FunctionShape>({
    {"ABS", Op::Abs, 1, 1, "ABS(number)"},
    {"ACOS", Op::ArcCosine, 1, 1, "ACOS(number)", {K::Real, K::Real, K::Real}, K::Real},
    {"AGE", Op::Age, 1, 2, "AGE(timestamp, from timestamp)"},
    {"ASCII", Op::CodePoint, 1, 1, "ASCII(text)", {K::Text, K::Text, K::Text}, K::Integer},
    {"ASIN", Op::ArcSine, 1, 1, "ASIN(number)", {K::Real, K::Real, K::Real}, K::Real},
    {"ATAN", Op::ArcTangent, 1, 1, "ATAN(number)", {K::Real, K::Real, K::Real}, K::Real},
    {"ATAN2", Op::ArcTangent2, 2, 2, "ATAN2(y, x)", {K::Real, K::Real, K::Real}, K::Real},
    {"BTRIM", Op::Trim, 1, 2, "BTRIM(text, characters)", {K::Text, K::Text, K::Text}, K::Text},
    {"CBRT", Op::CubeRoot, 1, 1, "CBRT(number)", {K::Real, K::Real, K::Real}, K::Real},
    {"CEIL", Op::Ceiling, 1, 1, "CEIL(number)"},
    {"CEILING", Op::Ceiling, 1, 1, "CEILING(number)"},
    {"CHARACTER_LENGTH", Op::CharLength, 1, 1, "CHARACTER_LENGTH(text)", {K::Text, K::Text, K::Text}, K::Integer},
    {"CHAR_LENGTH", Op::CharLength, 1, 1, "CHAR_LENGTH(text)", {K::Text, K::Text, K::Text}, K::Integer},
    {"CHR", Op::Character, 1, 1, "CHR(code point)", {K::Integer, K::Integer, K::Integer}, K::Text},
    {"COALESCE", Op::Coalesce, 1, 1000, "COALESCE(value, otherwise)"},
    {"CONCAT", Op::Concat, 1, 1000, "CONCAT(text, text)"},
    {"CONCAT_WS", Op::ConcatWith, 2, 1000, "CONCAT_WS(between, text, text)"},
    {"COS", Op::Cosine, 1, 1, "COS(radians)", {K::Real, K::Real, K::Real}, K::Real},
    {"COT", Op::Cotangent, 1, 1, "COT(radians)", {K::Real, K::Real, K::Real}, K::Real},
    {"DATE_TRUNC", Op::TruncateTime, 2, 2, "DATE_TRUNC('month', timestamp)"},
    {"DEGREES", Op::Degrees, 1, 1, "DEGREES(radians)", {K::Real, K::Real, K::Real}, K::Real},
    {"DIV", Op::WholeQuotient, 2, 2, "DIV(number, by)"},
    {"EXP", Op::Exponential, 1, 1, "EXP(number)"},
    {"FLOOR", Op::Floor, 1, 1, "FLOOR(number)"},
    {"GCD",
     Op::CommonDivisor,
     2,
     2,
     "GCD(whole number, whole number)",
     {K::Integer, K::Integer, K::Integer},
     K::Integer},
    {"GREATEST", Op::Greatest, 1, 1000, "GREATEST(value, value)"},
    {"INITCAP", Op::InitialCapitals, 1, 1, "INITCAP(text)", {K::Text, K::Text, K::Text}, K::Text},
    {"LCM",
     Op::CommonMultiple,
     2,
     2,
     "LCM(whole number, whole number)",
     {K::Integer, K::Integer, K::Integer},
     K::Integer},
    {"LEAST", Op::Least, 1, 1000, "LEAST(value, value)"},
    {"LEFT", Op::Left, 2, 2, "LEFT(text, count)", {K::Text, K::Integer, K::Integer}, K::Text},
    {"LENGTH", Op::CharLength, 1, 1, "LENGTH(text)", {K::Text, K::Text, K::Text}, K::Integer},
    {"LN", Op::Logarithm, 1, 1, "LN(number)"},
    {"LOG", Op::Logarithm10, 1, 2, "LOG(base, number)"},
    {"LOG10", Op::Logarithm10, 1, 1, "LOG10(number)"},
    {"LOWER", Op::Lower, 1, 1, "LOWER(text)", {K::Text, K::Text, K::Text}, K::Text},
    {"LPAD", Op::PadLeft, 2, 3, "LPAD(text, length, fill)", {K::Text, K::Integer, K::Text}, K::Text},
    {"LTRIM", Op::TrimLeading, 1, 2, "LTRIM(text, characters)", {K::Text, K::Text, K::Text}, K::Text},
    {"MAKE_DATE", Op::MakeDate, 3, 3, "MAKE_DATE(year, month, day)", {K::Integer, K::Integer, K::Integer}, K::Date},
    {"MAKE_TIME", Op::MakeTime, 3, 3, "MAKE_TIME(hour, minute, seconds)", {K::Integer, K::Integer, K::Real}, K::Time},
    {"MAKE_TIMESTAMP", Op::MakeTimestamp, 6, 6, "MAKE_TIMESTAMP(year, month, day, hour, minute, seconds)"},
    {"MIN_SCALE", Op::LeastScale, 1, 1, "MIN_SCALE(decimal)", {K::Decimal, K::Decimal, K::Decimal}, K::Integer},
    {"MOD", Op::Modulo, 2, 2, "MOD(number, by)"},
    {"NULLIF", Op::NullIf, 2, 2, "NULLIF(value, other)"},
    {"OCTET_LENGTH", Op::OctetLength, 1, 1, "OCTET_LENGTH(text)", {K::Text, K::Text, K::Text}, K::Integer},
    {"OVERLAY",
     Op::Overlay,
     3,
     4,
     "OVERLAY(text PLACING new FROM start FOR length)",
     {K::Text, K::Text, K::Integer},
     K::Text},
    {"POSITION", Op::Position, 2, 2, "POSITION(part IN text)", {K::Text, K::Text, K::Text}, K::Integer},
    {"POW", Op::Power, 2, 2, "POW(number, exponent)"},
    {"POWER", Op::Power, 2, 2, "POWER(number, exponent)"},
    {"RADIANS", Op::Radians, 1, 1, "RADIANS(degrees)", {K::Real, K::Real, K::Real}, K::Real},
    {"REPEAT", Op::Repeat, 2, 2, "REPEAT(text, times)", {K::Text, K::Integer, K::Integer}, K::Text},
    {"REPLACE", Op::Replace, 3, 3, "REPLACE(text, part, new)", {K::Text, K::Text, K::Text}, K::Text},
    {"REVERSE", Op::Reverse, 1, 1, "REVERSE(text)", {K::Text, K::Text, K::Text}, K::Text},
    {"RIGHT", Op::Right, 2, 2, "RIGHT(text, count)", {K::Text, K::Integer, K::Integer}, K::Text},
    {"ROUND", Op::Round, 1, 2, "ROUND(number, decimals)"},
    {"RPAD", Op::PadRight, 2, 3, "RPAD(text, length, fill)", {K::Text, K::Integer, K::Text}, K::Text},
    {"RTRIM", Op::TrimTrailing, 1, 2, "RTRIM(text, characters)", {K::Text, K::Text, K::Text}, K::Text},
    {"SCALE", Op::ScaleOf, 1, 1, "SCALE(decimal)", {K::Decimal, K::Decimal, K::Decimal}, K::Integer},
    {"SIGN", Op::Sign, 1, 1, "SIGN(number)"},
    {"SIN", Op::Sine, 1, 1, "SIN(radians)", {K::Real, K::Real, K::Real}, K::Real},
    {"SPLIT_PART", Op::SplitPart, 3, 3, "SPLIT_PART(text, between, which)", {K::Text, K::Text, K::Integer}, K::Text},
    {"SQRT", Op::SquareRoot, 1, 1, "SQRT(number)"},
    {"SUBSTR", Op::Substring, 2, 3, "SUBSTR(text, start, length)", {K::Text, K::Integer, K::Integer}, K::Text},
    {"SUBSTRING",
     Op::Substring,
     2,
     3,
     "SUBSTRING(text FROM start FOR length)",
     {K::Text, K::Integer, K::Integer},
     K::Text},
    {"TAN", Op::Tangent, 1, 1, "TAN(radians)", {K::Real, K::Real, K::Real}, K::Real},
    {"TRANSLATE",
     Op::Translate,
     3,
     3,
     "TRANSLATE(text, characters, new characters)",
     {K::Text, K::Text, K::Text},
     K::Text},
    {"TRIM", Op::Trim, 1, 2, "TRIM(BOTH characters FROM text)", {K::Text, K::Text, K::Text}, K::Text},
    {"TRIM_SCALE", Op::TrimScale, 1, 1, "TRIM_SCALE(decimal)", {K::Decimal, K::Decimal, K::Decimal}, K::Decimal},
    {"TRUNC", Op::Truncate, 1, 2, "TRUNC(number, decimals)"},
    {"UPPER", Op::Upper, 1, 1, "UPPER(text)", {K::Text, K::Text, K::Text}, K::Text},
    {"WIDTH_BUCKET", Op::WidthBucket, 4, 4, "WIDTH_BUCKET(number, low, high, count)"},
});

template <class T, std::size_t N>
std::optional<T> byName(const std::array<std::pair<std::string_view, T>, N>& table, std::string_view wanted) {
    for (const auto& [name, value] : table)
        if (name == wanted) return value;
    return std::nullopt;
}
template <class T, std::size_t N>
std::string_view nameIn(const std::array<std::pair<std::string_view, T>, N>& table, T wanted) {
    for (const auto& [name, value] : table)
        if (value == wanted) return name;
    return {};
}

constexpr std::array<std::pair<std::string_view, DatePart>, 18> kParts = {{{"MILLENNIUM", DatePart::Millennium},
                                                                           {"CENTURY", DatePart::Century},
                                                                           {"DECADE", DatePart::Decade},
                                                                           {"YEAR", DatePart::Year},
                                                                           {"QUARTER", DatePart::Quarter},
                                                                           {"MONTH", DatePart::Month},
                                                                           {"WEEK", DatePart::Week},
                                                                           {"ISOYEAR", DatePart::IsoYear},
                                                                           {"DAY", DatePart::Day},
                                                                           {"DOY", DatePart::DayOfYear},
                                                                           {"DOW", DatePart::DayOfWeek},
                                                                           {"ISODOW", DatePart::IsoDayOfWeek},
                                                                           {"EPOCH", DatePart::Epoch},
                                                                           {"HOUR", DatePart::Hour},
                                                                           {"MINUTE", DatePart::Minute},
                                                                           {"SECOND", DatePart::Second},
                                                                           {"MILLISECONDS", DatePart::Milliseconds},
                                                                           {"MICROSECONDS", DatePart::Microseconds}}};
constexpr std::array<std::pair<std::string_view, Aggregate>, 8> kAggregates = {
    {{"COUNT", Aggregate::Count},
     {"SUM", Aggregate::Sum},
     {"AVG", Aggregate::Average},
     {"MIN", Aggregate::Minimum},
     {"MAX", Aggregate::Maximum},
     {"ROW_NUMBER", Aggregate::RowNumber},
     {"RANK", Aggregate::Rank},
     {"PERCENT_RANK", Aggregate::PercentRank}}};

}  // namespace

std::optional<DatePart> datePartFromName(std::string_view upperName) { return byName(kParts, upperName); }
std::string_view name(DatePart part) { return nameIn(kParts, part); }
std::optional<DatePart> truncationFromName(std::string_view name) {
    std::string upper(name);
    for (char& c : upper) c = c >= 'a' && c <= 'z' ? static_cast<char>(c - 'a' + 'A') : c;
    if (upper == "MILLENNIA") upper = "MILLENNIUM";
    if (upper == "CENTURIES") upper = "CENTURY";
    auto part = datePartFromName(upper);
    if (!part && upper.ends_with('S')) part = datePartFromName(upper.substr(0, upper.size() - 1));
    if (!part && (upper == "MILLISECOND" || upper == "MICROSECOND")) part = datePartFromName(upper + "S");
    const bool cuts = part && *part != DatePart::IsoYear && *part != DatePart::DayOfYear &&
                      *part != DatePart::DayOfWeek && *part != DatePart::IsoDayOfWeek && *part != DatePart::Epoch;
    return cuts ? part : std::nullopt;
}
std::optional<Aggregate> aggregateFromName(std::string_view upperName) { return byName(kAggregates, upperName); }
std::string_view name(Aggregate aggregate) { return nameIn(kAggregates, aggregate); }

const FunctionShape* FunctionList::begin() const { return kFunctions.data(); }
const FunctionShape* FunctionList::end() const { return kFunctions.data() + kFunctions.size(); }

const FunctionShape* findFunction(std::string_view upperName) {
    for (const FunctionShape& shape : kFunctions)
        if (shape.name == upperName) return &shape;
    return nullptr;
}

std::string_view symbolOf(Op op) {
    switch (op) {
        case Op::And: return "AND";
        case Op::Or: return "OR";
        case Op::Equal: return "=";
        case Op::NotEqual: return "<>";
        case Op::Less: return "<";
        case Op::LessEqual: return "<=";
        case Op::Greater: return ">";
        case Op::GreaterEqual: return ">=";
        case Op::Add: return "+";
        case Op::Subtract: return "-";
        case Op::Multiply: return "*";
        case Op::Divide: return "/";
        case Op::Modulo: return "%";
        case Op::Concatenate: return "||";
        default: return {};
    }
}

std::string_view name(Op op) {
    if (const std::string_view symbol = symbolOf(op); !symbol.empty()) return symbol;
    for (const FunctionShape& shape : kFunctions)
        if (shape.op == op) return shape.name;
    switch (op) {
        case Op::Constant: return "CONSTANT";
        case Op::Load: return "LOAD";
        case Op::Parameter: return "PARAMETER";
        case Op::Not: return "NOT";
        case Op::IsNull: return "IS NULL";
        case Op::IsTrue: return "IS TRUE";
        case Op::IsFalse: return "IS FALSE";
        case Op::Distinct: return "IS DISTINCT FROM";
        case Op::In: return "IN";
        case Op::Case: return "CASE";
        case Op::Negate: return "NEGATE";
        case Op::Like: return "LIKE";
        case Op::Extract: return "EXTRACT";
        case Op::CurrentDate: return "CURRENT_DATE";
        case Op::CurrentTimestamp: return "LOCALTIMESTAMP";
        case Op::Cast: return "CAST";
        case Op::External: return "EXTERNAL";
        case Op::Window: return "OVER";
        default: return "?";
    }
}

}  // namespace jollyrow
