// SPDX-License-Identifier: MIT
#pragma once
// How a value of an application's own object stands in a column, by its C++ type. A type of one's own gets a
// specialisation of ObjectValue beside it.

#include <chrono>
#include <concepts>
#include <cstdint>
#include <limits>
#include <optional>
#include <string>
#include <type_traits>
#include <utility>

#include "core/base/result.h"
#include "core/columns/column_chunk.h"
#include "core/columns/schema.h"
#include "core/columns/value.h"

namespace jollyrow {

/// Of each type: `describe` sets type, use and whether an empty value can stand; `add` appends to a chunk, in a loop
/// over thousands; `value` boxes one; `set` takes one that a form user typed, or says why it cannot.
template <class T>
struct ObjectValue;

namespace objects {

inline Error unfit(const char* expected) {
    return {ErrorCode::InvalidInput, std::string("This is not ") + expected + "."};
}

/// Those that are one alternative of Value, which has no emptiness of its own.
template <class T, Type kType>
struct Plain {
    static void describe(FieldSchema& field) {
        field.type = kType;
        field.required = true;
    }
    static Value value(const T& from, const FieldSchema&) { return Value(from); }
    static Result<void> set(T& to, const Value& from) {
        if (const auto* known = std::get_if<T>(&from)) {
            to = *known;
            return {};
        }
        return isEmpty(from) ? Error{ErrorCode::Refused, "A value is needed here."} : unfit(article(kType).data());
    }
};

}  // namespace objects

template <>
struct ObjectValue<bool> : objects::Plain<bool, Type::Boolean> {
    static void add(ColumnChunk& chunk, bool from, const FieldSchema&) { chunk.addInteger(from ? 1 : 0); }
};

template <std::integral T>
requires(!std::same_as<T, bool>) struct ObjectValue<T> {
    static_assert(std::numeric_limits<T>::digits <= 63, "Columns hold signed numbers of 64 bits: use std::int64_t.");
    static void describe(FieldSchema& field) {
        field.type = Type::Integer;
        field.required = true;
    }
    static void add(ColumnChunk& chunk, T from, const FieldSchema&) {
        chunk.addInteger(static_cast<std::int64_t>(from));
    }
    static Value value(T from, const FieldSchema&) { return Value(static_cast<std::int64_t>(from)); }
    static Result<void> set(T& to, const Value& from) {
        const auto* known = std::get_if<std::int64_t>(&from);
        if (!known)
            return isEmpty(from) ? Error{ErrorCode::Refused, "A value is needed here."}
                                 : objects::unfit("a whole number");
        if (!std::in_range<T>(*known))
            return Error{ErrorCode::Refused, "This number is too large for the field: it holds " +
                                                 std::to_string(std::numeric_limits<T>::min()) + " to " +
                                                 std::to_string(std::numeric_limits<T>::max()) + "."};
        to = static_cast<T>(*known);
        return {};
    }
};

template <std::floating_point T>
struct ObjectValue<T> {
    static void describe(FieldSchema& field) {
        field.type = Type::Real;
        field.required = true;
    }
    static void add(ColumnChunk& chunk, T from, const FieldSchema&) { chunk.addReal(static_cast<double>(from)); }
    static Value value(T from, const FieldSchema&) { return Value(static_cast<double>(from)); }
    static Result<void> set(T& to, const Value& from) {
        if (const auto* real = std::get_if<double>(&from))
            to = static_cast<T>(*real);
        else if (const auto* whole = std::get_if<std::int64_t>(&from))
            to = static_cast<T>(*whole);
        else
            return isEmpty(from) ? Error{ErrorCode::Refused, "A value is needed here."} : objects::unfit("a number");
        return {};
    }
};

/// At the scale of its column (Field::scale); what has more decimals is shown as it is, and fits no rule.
template <>
struct ObjectValue<Decimal> : objects::Plain<Decimal, Type::Decimal> {
    static void describe(FieldSchema& field) {
        Plain::describe(field);
        field.scale = 2;
    }
    static void add(ColumnChunk& chunk, Decimal from, const FieldSchema& field) {
        const auto fitted = rescaledExactly(from, field.scale);
        fitted ? chunk.addInteger(fitted->mantissa) : chunk.addMisfit(toString(from));
    }
    static Value value(Decimal from, const FieldSchema& field) {
        const auto fitted = rescaledExactly(from, field.scale);
        return fitted ? Value(*fitted) : Value(Unfit{toString(from), Stored::Text});
    }
};

/// A text of length zero is an empty cell, and the other way round; std::optional<std::string> tells them apart.
template <>
struct ObjectValue<std::string> {
    static void describe(FieldSchema& field) { field.type = Type::Text; }
    static void add(ColumnChunk& chunk, const std::string& from, const FieldSchema&) {
        from.empty() ? chunk.addEmpty() : chunk.addText(from);
    }
    static Value value(const std::string& from, const FieldSchema&) {
        return from.empty() ? Value(Empty{}) : Value(from);
    }
    static Result<void> set(std::string& to, const Value& from) {
        const auto* text = std::get_if<std::string>(&from);
        if (!text && !isEmpty(from)) return objects::unfit("a text");
        to = text ? *text : std::string();
        return {};
    }
};

template <>
struct ObjectValue<Bytes> {
    static void describe(FieldSchema& field) { field.type = Type::Binary; }
    static void add(ColumnChunk& chunk, const Bytes& from, const FieldSchema&) {
        from.data.empty() ? chunk.addEmpty() : chunk.addText(from.data);
    }
    static Value value(const Bytes& from, const FieldSchema&) {
        return from.data.empty() ? Value(Empty{}) : Value(from);
    }
    static Result<void> set(Bytes& to, const Value& from) {
        const auto* bytes = std::get_if<Bytes>(&from);
        if (!bytes && !isEmpty(from)) return objects::unfit("binary data");
        to = bytes ? *bytes : Bytes{};
        return {};
    }
};

template <>
struct ObjectValue<Date> : objects::Plain<Date, Type::Date> {
    static void add(ColumnChunk& chunk, Date from, const FieldSchema&) { chunk.addInteger(from.days); }
};
template <>
struct ObjectValue<Time> : objects::Plain<Time, Type::Time> {
    static void add(ColumnChunk& chunk, Time from, const FieldSchema&) { chunk.addInteger(from.micros); }
};
template <>
struct ObjectValue<Timestamp> : objects::Plain<Timestamp, Type::Timestamp> {
    static void add(ColumnChunk& chunk, Timestamp from, const FieldSchema&) { chunk.addInteger(from.micros); }
};
template <>
struct ObjectValue<Instant> : objects::Plain<Instant, Type::Instant> {
    static void add(ColumnChunk& chunk, Instant from, const FieldSchema&) { chunk.addInteger(from.micros); }
};

/// A type that another one stands for: `To to(const From&)` and `From from(const To&)`.
template <class From, class To, class Way>
struct ObjectValueAs {
    using Other = ObjectValue<To>;
    static void describe(FieldSchema& field) { Other::describe(field); }
    static void add(ColumnChunk& chunk, const From& from, const FieldSchema& field) {
        Other::add(chunk, Way::to(from), field);
    }
    static Value value(const From& from, const FieldSchema& field) { return Other::value(Way::to(from), field); }
    static Result<void> set(From& to, const Value& from) {
        To other = Way::to(to);
        if (auto done = Other::set(other, from); !done) return done;
        to = Way::from(other);
        return {};
    }
};

namespace objects {
struct DaysWay {
    static Date to(std::chrono::sys_days from) { return {static_cast<std::int32_t>(from.time_since_epoch().count())}; }
    static std::chrono::sys_days from(Date from) { return std::chrono::sys_days(std::chrono::days(from.days)); }
};
struct CivilWay {
    static Date to(std::chrono::year_month_day from) { return DaysWay::to(std::chrono::sys_days(from)); }
    static std::chrono::year_month_day from(Date date) { return {DaysWay::from(date)}; }
};
using Microseconds = std::chrono::sys_time<std::chrono::microseconds>;
struct InstantWay {
    static Instant to(Microseconds from) { return {from.time_since_epoch().count()}; }
    static Microseconds from(Instant from) { return Microseconds(std::chrono::microseconds(from.micros)); }
};
}  // namespace objects

template <>
struct ObjectValue<std::chrono::sys_days> : ObjectValueAs<std::chrono::sys_days, Date, objects::DaysWay> {};
template <>
struct ObjectValue<std::chrono::year_month_day> : ObjectValueAs<std::chrono::year_month_day, Date, objects::CivilWay> {
};
template <>
struct ObjectValue<objects::Microseconds> : ObjectValueAs<objects::Microseconds, Instant, objects::InstantWay> {};

template <class T>
struct ObjectValue<std::optional<T>> {
    static void describe(FieldSchema& field) {
        ObjectValue<T>::describe(field);
        field.required = false;
    }
    static void add(ColumnChunk& chunk, const std::optional<T>& from, const FieldSchema& field) {
        if (!from)
            chunk.addEmpty();
        else if constexpr (std::same_as<T, std::string>)
            chunk.addText(*from);
        else
            ObjectValue<T>::add(chunk, *from, field);
    }
    static Value value(const std::optional<T>& from, const FieldSchema& field) {
        if (!from) return Empty{};
        if constexpr (std::same_as<T, std::string>)
            return Value(*from);
        else
            return ObjectValue<T>::value(*from, field);
    }
    static Result<void> set(std::optional<T>& to, const Value& from) {
        if (isEmpty(from)) {
            to.reset();
            return {};
        }
        T other{};
        if (auto done = ObjectValue<T>::set(other, from); !done) return done;
        to = std::move(other);
        return {};
    }
};

}  // namespace jollyrow
