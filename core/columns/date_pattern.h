// SPDX-License-Identifier: MIT
#pragma once
// Dates and times that a table keeps as texts of its own form: read and written by a pattern of UTS #35 (CLDR). Strict,
// so that what is read is written again as it was: "dd" wants two digits, "d" as many as the number has.

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

#include "core/base/result.h"

namespace jollyrow {

/// What a pattern's texts say.
enum class PatternKind : std::uint8_t { Date, Time, Timestamp, Instant };

/// Letters: y yy yyyy, M MM MMM (Jan) MMMM (January), d dd, H HH (0–23), h hh with a (AM, PM), m mm, s ss, S… (parts of
/// a second), one to three X or x (offset from UTC; X writes Z for none). Letters that mean themselves stand in
/// apostrophes. The error says what is wrong and where.
Result<PatternKind> checkDatePattern(std::string_view pattern);

/// A text -> days (Date), microseconds since midnight (Time) or since 1970-01-01 (Timestamp, Instant). Two-digit years
/// are 1969 to 2068 (POSIX). Requires: checkDatePattern(pattern) is `kind`. nullopt unless the whole text fits.
/// O(length).
std::optional<std::int64_t> readByPattern(std::string_view text, std::string_view pattern, PatternKind kind);

/// The reverse; nullopt when the pattern has no room for the value (seconds that it does not write, the year 1850 in
/// two digits). An Instant is written in UTC.
std::optional<std::string> writeByPattern(std::int64_t value, std::string_view pattern, PatternKind kind);

}  // namespace jollyrow
