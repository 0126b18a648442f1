// SPDX-License-Identifier: MIT
#include "core/rules/op.h"

#include <array>
#include <utility>

namespace jollyrow {
namespace {

constexpr std::array kFunctions = std::to_array<FunctionShape>({
    {"ABS", Op::Abs, 1, 1, "ABS(number)"},
    {"CEIL", Op::Ceiling, 1, 1, "CEIL(number)"},
    {"CEILING", Op::Ceiling, 1, 1, "CEILING(number)"},
    {"CHARACTER_LENGTH", Op::CharLength, 1, 1, "CHARACTER_LENGTH(text)"},
    {"CHAR_LENGTH", Op::CharLength, 1, 1, "CHAR_LENGTH(text)"},
    {"COALESCE", Op::Coalesce, 1, 1000, "COALESCE(value, otherwise)"},
    {"CONCAT", Op::Concat, 1, 1000, "CONCAT(text, text)"},
    {"EXP", Op::Exponential, 1, 1, "EXP(number)"},
    {"FLOOR", Op::Floor, 1, 1, "FLOOR(number)"},
    {"GREATEST", Op::Greatest, 1, 1000, "GREATEST(value, value)"},
    {"LEAST", Op::Least, 1, 1000, "LEAST(value, value)"},
    {"LEFT", Op::Left, 2, 2, "LEFT(text, count)"},
    {"LN", Op::Logarithm, 1, 1, "LN(number)"},
    {"LOWER", Op::Lower, 1, 1, "LOWER(text)"},
    {"LPAD", Op::PadLeft, 2, 3, "LPAD(text, length, fill)"},
    {"LTRIM", Op::TrimLeading, 1, 2, "LTRIM(text, characters)"},
    {"MOD", Op::Modulo, 2, 2, "MOD(number, by)"},
    {"NULLIF", Op::NullIf, 2, 2, "NULLIF(value, other)"},
    {"OCTET_LENGTH", Op::OctetLength, 1, 1, "OCTET_LENGTH(text)"},
    {"OVERLAY", Op::Overlay, 3, 4, "OVERLAY(text PLACING new FROM start FOR length)"},
    {"POSITION", Op::Position, 2, 2, "POSITION(part IN text)"},
    {"POWER", Op::Power, 2, 2, "POWER(number, exponent)"},
    {"REPEAT", Op::Repeat, 2, 2, "REPEAT(text, times)"},
    {"REPLACE", Op::Replace, 3, 3, "REPLACE(text, part, new)"},
    {"REVERSE", Op::Reverse, 1, 1, "REVERSE(text)"},
    {"RIGHT", Op::Right, 2, 2, "RIGHT(text, count)"},
    {"ROUND", Op::Round, 1, 2, "ROUND(number, decimals)"},
    {"RPAD", Op::PadRight, 2, 3, "RPAD(text, length, fill)"},
    {"RTRIM", Op::TrimTrailing, 1, 2, "RTRIM(text, characters)"},
    {"SIGN", Op::Sign, 1, 1, "SIGN(number)"},
    {"SQRT", Op::SquareRoot, 1, 1, "SQRT(number)"},
    {"SUBSTRING", Op::Substring, 2, 3, "SUBSTRING(text FROM start FOR length)"},
    {"TRIM", Op::Trim, 1, 2, "TRIM(BOTH characters FROM text)"},
    {"TRUNC", Op::Truncate, 1, 2, "TRUNC(number, decimals)"},
    {"UPPER", Op::Upper, 1, 1, "UPPER(text)"},
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

constexpr std::array<std::pair<std::string_view, DatePart>, 11> kParts = {{{"YEAR", DatePart::Year},
                                                                           {"QUARTER", DatePart::Quarter},
                                                                           {"MONTH", DatePart::Month},
                                                                           {"WEEK", DatePart::Week},
                                                                           {"ISOYEAR", DatePart::IsoYear},
                                                                           {"DAY", DatePart::Day},
                                                                           {"DOY", DatePart::DayOfYear},
                                                                           {"ISODOW", DatePart::IsoDayOfWeek},
                                                                           {"HOUR", DatePart::Hour},
                                                                           {"MINUTE", DatePart::Minute},
                                                                           {"SECOND", DatePart::Second}}};
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
