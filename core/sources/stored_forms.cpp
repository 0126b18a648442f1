// SPDX-License-Identifier: MIT
// Covered by tests/sources/moments_test.cpp.
#include "core/sources/stored_forms.h"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>

#include "core/columns/civil.h"
#include "core/columns/date_pattern.h"

namespace jollyrow {
namespace {

bool inYears(Int128 micros) {
    static const Int128 kLeast = static_cast<Int128>(*daysFromCivil({1, 1, 1})) * kMicrosPerDay;
    static const Int128 kMost = (static_cast<Int128>(*daysFromCivil({9999, 12, 31})) + 1) * kMicrosPerDay;
    return micros >= kLeast && micros < kMost;
}

PatternKind kindOf(Type type) {
    return type == Type::Date        ? PatternKind::Date
           : type == Type::Time      ? PatternKind::Time
           : type == Type::Timestamp ? PatternKind::Timestamp
                                     : PatternKind::Instant;
}

std::optional<Value> patterned(const Value& value, const FieldSchema& field) {
    std::optional<std::int64_t> number;
    if (const auto* date = std::get_if<Date>(&value)) number = date->days;
    if (const auto* time = std::get_if<Time>(&value)) number = time->micros;
    if (const auto* stamp = std::get_if<Timestamp>(&value)) number = stamp->micros;
    if (const auto* instant = std::get_if<Instant>(&value)) number = instant->micros;
    if (!number) return std::nullopt;
    auto text = writeByPattern(*number, field.stored.pattern, kindOf(field.type));
    return text ? Value(std::move(*text)) : Value(Unfit{});
}

std::optional<Value> counted(const Value& value, std::int64_t unit) {
    const auto* instant = std::get_if<Instant>(&value);
    if (!instant) return std::nullopt;
    if (instant->micros % unit == 0) return Value(instant->micros / unit);
    const double parts = static_cast<double>(instant->micros) / static_cast<double>(unit);
    return instantFromReal(parts, unit) == instant->micros ? Value(parts) : Value(Unfit{});
}

std::optional<Value> numbered(const Value& value, const FieldSchema& field) {
    const auto exact = exactOf(value);
    if (!exact) return std::nullopt;
    const auto padded =
        exact->scale < field.style.decimals ? rescaledExactly(*exact, field.style.decimals) : std::nullopt;
    std::string text = toString(padded.value_or(*exact));
    if (field.stored.pattern == ",") std::replace(text.begin(), text.end(), '.', ',');
    return Value(std::move(text));
}

}  // namespace

std::optional<std::int64_t> instantFromCount(std::int64_t count, std::int64_t unit) {
    const Int128 micros = static_cast<Int128>(count) * unit;
    return inYears(micros) ? std::optional(static_cast<std::int64_t>(micros)) : std::nullopt;
}

std::optional<std::int64_t> instantFromReal(double count, std::int64_t unit) {
    const double micros = std::nearbyint(count * static_cast<double>(unit));
    if (!(std::abs(micros) < 1e18) || !inYears(static_cast<Int128>(micros))) return std::nullopt;
    return static_cast<std::int64_t>(micros);
}

std::optional<std::int64_t> instantFromDigits(std::string_view count, std::int64_t unit) {
    std::int64_t whole = 0;
    const auto [end, failure] = std::from_chars(count.data(), count.data() + count.size(), whole);
    if (failure != std::errc{} || end != count.data() + count.size()) return std::nullopt;
    return instantFromCount(whole, unit);
}

std::optional<std::int64_t> fromPattern(std::string_view text, const FieldSchema& field) {
    return readByPattern(text, field.stored.pattern, kindOf(field.type));
}

std::optional<Value> storedValue(const Value& value, const FieldSchema& field) {
    switch (field.stored.form) {
        case StoredForm::Own: return std::nullopt;
        case StoredForm::Pattern: return patterned(value, field);
        case StoredForm::Seconds: return counted(value, 1'000'000);
        case StoredForm::Milliseconds: return counted(value, 1000);
        case StoredForm::Number: return numbered(value, field);
        case StoredForm::Words: {
            const bool* yes = std::get_if<bool>(&value);
            return yes ? std::optional<Value>(*yes ? field.stored.yes : field.stored.no) : std::nullopt;
        }
    }
    return std::nullopt;
}

std::string whyNotStored(const Value& value, const FieldSchema& field) {
    const auto stored = storedValue(value, field);
    if (std::holds_alternative<Unfit>(value) || !stored || !std::holds_alternative<Unfit>(*stored)) return {};
    return fmt::format("{} keeps its values as {}, which has no room for this one", field.name, toText(field.stored));
}

}  // namespace jollyrow
