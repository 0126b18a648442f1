// SPDX-License-Identifier: MIT
#pragma once
// Values of columns that are kept in another form (read_as.h), to and from that form. Knows no database.

#include <cstdint>
#include <optional>
#include <string_view>

#include "core/columns/schema.h"
#include "core/columns/value.h"

namespace jollyrow {

/// A count since 1970 of `unit` microseconds each -> microseconds; nullopt outside the years 0001 to 9999. A double may
/// have parts of a unit.
std::optional<std::int64_t> instantFromCount(std::int64_t count, std::int64_t unit);
std::optional<std::int64_t> instantFromReal(double count, std::int64_t unit);
/// Digits alone.
std::optional<std::int64_t> instantFromDigits(std::string_view count, std::int64_t unit);

/// Days or microseconds of a text, by field.stored.pattern.
std::optional<std::int64_t> fromPattern(std::string_view text, const FieldSchema& field);

/// What to store for a value of a field that is kept in another form; nullopt when it goes as it is. A value that the
/// form has no room for (the year 1850 in two digits) comes back as Unfit: it must not be written.
std::optional<Value> storedValue(const Value& value, const FieldSchema& field);

/// Why it must not be: "years are written with two digits there"; "" when it may.
std::string whyNotStored(const Value& value, const FieldSchema& field);

}  // namespace jollyrow
