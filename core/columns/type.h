// SPDX-License-Identifier: MIT
#pragma once
// The closed set of types a column can have, and what a text or number column is used for.

#include <cstdint>
#include <optional>
#include <string_view>

namespace jollyrow {

/// How values are stored and compared. Numbered: they stand in files; never reuse one.
enum class Type : std::uint8_t {
    Boolean = 0,     ///< true or false
    Integer = 1,     ///< 64-bit signed
    Decimal = 2,     ///< exact: a scaled 64-bit integer, the scale belongs to the column
    Real = 3,        ///< IEEE 754 double
    Text = 4,        ///< UTF-8
    Date = 5,        ///< civil day, counted from 1970-01-01
    Time = 6,        ///< microseconds since midnight
    Timestamp = 7,   ///< civil date and time, microseconds since 1970-01-01, no zone
    Binary = 8,      ///< bytes; a picture when the use says so
    NumberList = 9,  ///< a series of numbers, kept as a JSON array
    Instant = 10,    ///< a point of time, microseconds since 1970-01-01 00:00 UTC: SQL's TIMESTAMP WITH TIME ZONE
    Interval = 11,   ///< a span of time, kept as the text that the database has: "2 days 04:00:00"
};

/// What a column is for, beyond its storage: decides face, editor and alignment.
enum class Use : std::uint8_t {
    Plain = 0,
    LongText = 1,  ///< several lines
    Choice = 2,    ///< one of a stated list of values
    LookUp = 3,    ///< a foreign key; shows the other record's label
    Picture = 4,   ///< Binary holding PNG, JPEG or SVG
};

/// The name used in design files, messages and on the command line.
std::string_view name(Type type);
std::optional<Type> typeFromName(std::string_view name);
/// "a date", "a whole number": for sentences.
std::string_view article(Type type);

constexpr bool isNumber(Type type) { return type == Type::Integer || type == Type::Decimal || type == Type::Real; }
/// Stored as an integer of some width (everything but Real, Text, Binary, NumberList).
constexpr bool isIntegral(Type type) {
    return type == Type::Boolean || type == Type::Integer || type == Type::Decimal || type == Type::Date ||
           type == Type::Time || type == Type::Timestamp || type == Type::Instant;
}
/// A day with a time of day, of a zone or of none.
constexpr bool isMoment(Type type) { return type == Type::Timestamp || type == Type::Instant; }
/// Has a day that can be asked for.
constexpr bool hasDay(Type type) { return type == Type::Date || isMoment(type); }
/// Comes earlier or later.
constexpr bool isCalendar(Type type) { return hasDay(type) || type == Type::Time; }
/// Stored as bytes.
constexpr bool isBytes(Type type) {
    return type == Type::Text || type == Type::Binary || type == Type::NumberList || type == Type::Interval;
}

}  // namespace jollyrow
