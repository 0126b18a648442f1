// SPDX-License-Identifier: MIT
#pragma once
// Interval: a span of time as SQL has it, in months, days and microseconds, which do not convert into one another
// (a month has 28 to 31 days). For comparison alone a month counts 30 days and a day 24 hours, as in PostgreSQL.

#include <compare>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

namespace jollyrow {

struct Interval {
    std::int32_t months = 0;
    std::int32_t days = 0;
    std::int64_t micros = 0;
    friend bool operator==(const Interval& a, const Interval& b) { return (a <=> b) == 0; }
    friend std::strong_ordering operator<=>(const Interval& a, const Interval& b);
};

/// "1 year 2 months", "3 days 04:05:06", "1-2" (years and months), "1.5 days", "2 h ago", ISO 8601 ("P1Y2MT30M"); with
/// `unit` ("MONTH", "DAY", "YEAR TO MONTH" …) a bare number counts that unit. nullopt when it is not that.
std::optional<Interval> parseInterval(std::string_view text, std::string_view unit = {});
/// "1 year 2 mons 3 days 04:05:06": reads back as the same.
std::string toString(const Interval& value);
/// nullopt when a part passes its range.
std::optional<Interval> added(const Interval& a, const Interval& b);
std::optional<Interval> negated(const Interval& a);
std::optional<Interval> multiplied(const Interval& a, std::int64_t times);
/// Times the factor, or divided by it: what is left of months goes on in days of which a month has 30, what is left of
/// days in the time of day, as in PostgreSQL. nullopt past its range. Requires: a divisor is not 0.
std::optional<Interval> scaled(const Interval& a, double factor, bool divides);

/// Months first, the day clamped to the month's last (31 January + 1 month = 28 or 29 February), then days, then the
/// rest. nullopt outside years 0001..9999.
std::optional<std::int64_t> addedToTimestamp(std::int64_t micros, const Interval& interval);

}  // namespace jollyrow
