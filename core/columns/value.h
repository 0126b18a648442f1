// SPDX-License-Identifier: MIT
#pragma once
// Value: one boxed value, for the edges only (an editor, the clipboard, a record handed to an application, an edit).
// Inside, values live in typed columns.

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <variant>

#include "core/columns/decimal.h"
#include "core/columns/type.h"
#include "core/columns/wide_decimal.h"

namespace jollyrow {

struct Empty {
    bool operator==(const Empty&) const = default;
};
struct Date {
    std::int32_t days = 0;
    bool operator==(const Date&) const = default;
};
struct Time {
    std::int64_t micros = 0;
    bool operator==(const Time&) const = default;
};
struct Timestamp {
    std::int64_t micros = 0;
    bool operator==(const Timestamp&) const = default;
};
/// A point of time, the same everywhere; what clocks show depends on the zone (zone.h).
struct Instant {
    std::int64_t micros = 0;  ///< since 1970-01-01 00:00 UTC
    bool operator==(const Instant&) const = default;
};
struct Bytes {
    std::string data;
    bool operator==(const Bytes&) const = default;
};

/// Binary data that stays in the database: only how long it is has been read (FieldSchema::unread).
/// SessionRecords::bytesReader brings it. Never written: a store compares it with what it finds.
struct Unread {
    std::uint64_t bytes = 0;
    std::uint64_t digest = 0;  ///< digestOf() what was last read of it; 0 = nothing was
    bool operator==(const Unread&) const = default;
};

/// What class of value a database stores where any may stand in any column.
enum class Stored : std::uint8_t { Text, Integer, Real, Blob };

/// A misfit: a stored value that is none of its column's type ('soon' in a DATE). It is not Empty, it is shown and
/// exported as stored, and nothing can be computed with it.
struct Unfit {
    std::string text;  ///< as stored; of a blob, words for it
    Stored stored = Stored::Text;
    bool operator==(const Unfit&) const = default;
};

/// Empty is SQL's NULL. A text of length zero is not Empty. An exact number is a Decimal when it fits one, else a
/// WideDecimal (narrowest()), so that equal numbers of one scale are equal values.
///
/// A class of its own, so that what copies, destroys and compares it is compiled once and not in each file, whose
/// compiling takes a fifth less time by that.
struct Value : std::variant<Empty, bool, std::int64_t, Decimal, double, std::string, Date, Time, Timestamp, Instant,
                            Bytes, WideDecimal, Unfit, Unread> {
    using variant::variant;
    Value() noexcept;
    Value(const Value& other);
    Value(Value&& other) noexcept;
    Value& operator=(const Value& other);
    Value& operator=(Value&& other) noexcept;
    ~Value();
    friend bool operator==(const Value& a, const Value& b);
    friend bool operator<(const Value&, const Value&) = delete;  // not all of what it may hold has an order
};

inline Value narrowest(const WideDecimal& value) {
    const auto mantissa = static_cast<std::int64_t>(value.mantissa);
    if (mantissa != value.mantissa || value.scale > Decimal::kMaxScale) return value;
    return Decimal{mantissa, value.scale};
}

/// An exact number of either width; nullopt for anything else.
inline std::optional<WideDecimal> exactOf(const Value& value) {
    if (const auto* narrow = std::get_if<Decimal>(&value)) return WideDecimal{narrow->mantissa, narrow->scale};
    if (const auto* wide = std::get_if<WideDecimal>(&value)) return *wide;
    return std::nullopt;
}

/// Can a column of this type hold the value as it is? Empty and what stood there as a misfit can stand anywhere, a
/// whole number in columns of exact numbers and doubles.
bool isOfType(const Value& value, Type type);

/// Of some bytes, to tell whether they have been changed (64-bit FNV-1a); never 0.
std::uint64_t digestOf(std::string_view bytes);
/// Is what a store holds what a writer believes it to be? Of what the writer has not read: by length, and by the digest
/// where there is one.
bool isAsBelieved(const Value& stored, const Value& believed);

inline bool isEmpty(const Value& value) { return std::holds_alternative<Empty>(value); }

}  // namespace jollyrow
