// SPDX-License-Identifier: MIT
#pragma once
// Civil dates and times (proleptic Gregorian, no zone), as counts: days since 1970-01-01, microseconds since midnight
// or since 1970-01-01. Text is ISO 8601. Algorithms are the standard library's calendar types.

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

namespace jollyrow {

struct CivilDate {
    int year = 1970;
    unsigned month = 1;
    unsigned day = 1;
    bool operator==(const CivilDate&) const = default;
};

inline constexpr std::int64_t kMicrosPerDay = 86'400'000'000;

/// The day of a point of time, also before 1970.
constexpr std::int64_t dayOf(std::int64_t micros) {
    return micros / kMicrosPerDay - (micros % kMicrosPerDay < 0 ? 1 : 0);
}

/// nullopt when there is no such day ("there is no 31 February") or the year is not within 0001..9999.
std::optional<std::int32_t> daysFromCivil(CivilDate date);
CivilDate civilFromDays(std::int32_t days);
/// 1 = Monday .. 7 = Sunday (ISO 8601).
int isoWeekday(std::int32_t days);
/// Today in the local time zone.
std::int32_t today();

/// Date and time of now in the local time zone, in whole seconds: LOCALTIMESTAMP.
std::int64_t localNow();

/// "2026-11-23". Whole text or nothing.
std::optional<std::int32_t> parseIsoDate(std::string_view text);
/// "14:05", "14:05:09", "14:05:09.250"; "24:00" is the end of a day.
std::optional<std::int64_t> parseIsoTime(std::string_view text);
/// Date, then 'T' or a space, then a time; a date alone is midnight, 24:00 the next one. An offset or 'Z' is not
/// accepted (parseIsoInstant).
std::optional<std::int64_t> parseIsoTimestamp(std::string_view text);
void appendIsoDate(std::string& out, std::int32_t days);
/// Seconds always, fractions only when there are any.
void appendIsoTime(std::string& out, std::int64_t micros);
void appendIsoTimestamp(std::string& out, std::int64_t micros);

}  // namespace jollyrow
