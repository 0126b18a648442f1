// SPDX-License-Identifier: MIT
#include "core/rules/op.h"

#include <array>
#include <string>
#include <utility>

namespace jollyrow {
namespace {

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
        case Op::BitAnd: return "&";
        case Op::BitOr: return "|";
        case Op::BitExclusiveOr: return "#";
        case Op::ShiftLeft: return "<<";
        case Op::ShiftRight: return ">>";
        default: return {};
    }
}

std::string_view name(Op op) {
    if (const std::string_view symbol = symbolOf(op); !symbol.empty()) return symbol;
    for (const FunctionShape& shape : FunctionList{})
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
        case Op::SimilarTo: return "SIMILAR TO";
        case Op::BitNot: return "~";
        case Op::AtZone: return "AT TIME ZONE";
        case Op::CollationKey: return "COLLATE";
        case Op::MomentToText: return "TO_CHAR";
        case Op::EpochToInstant: return "TO_TIMESTAMP";
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
