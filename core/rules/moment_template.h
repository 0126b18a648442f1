// SPDX-License-Identifier: MIT
#pragma once
// Patterns of TO_CHAR, TO_DATE and TO_TIMESTAMP: 'DD.MM.YYYY HH24:MI', as PostgreSQL documents them ("Template Patterns
// for Date/Time Formatting"). Names of days and months are English. Not there: TM (names in
// the server's language) and TZ (short names of zones, of which several are called alike).

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace jollyrow {

enum class MomentField : std::uint8_t {
    Era,         ///< AD, BC
    EraDots,     ///< A.D.
    HalfDay,     ///< AM, PM
    HalfDayDots, ///< A.M.
    Century,
    DayName,
    DayShort,
    DayOfYear,
    Day,
    DayOfWeek,  ///< 1 is Sunday
    IsoDayOfYear,
    IsoDayOfWeek,  ///< 1 is Monday
    Hour12,
    Hour24,
    Minute,
    Second,
    Fraction,  ///< FF1 to FF6, MS, US: `digits` of the second
    SecondOfDay,
    IsoWeek,
    Week,
    WeekOfMonth,
    IsoYear,  ///< its last `digits`
    Year,
    YearComma,  ///< Y,YYY
    Julian,
    MonthName,
    MonthShort,
    Month,
    Roman,
    Quarter,
    ZoneHour,
    ZoneMinute,
    ZoneOffset,
};
enum class LetterCase : std::uint8_t { Upper, Capital, Lower };

struct MomentNode {
    enum class Kind : std::uint8_t { Field, Text, Separator, Space };
    Kind kind = Kind::Text;
    MomentField field{};
    LetterCase letters = LetterCase::Upper;
    std::uint8_t digits = 0;
    bool isFilled = true;     ///< FM takes blanks and zeros away that fill it up
    bool isOrdinal = false;   ///< TH: 1ST, 2ND
    bool isOrdinalLower = false;
    std::string text = {};
};

struct MomentTemplate {
    std::vector<MomentNode> nodes;
    bool isExact = false;  ///< FX: texts are as long as the pattern says
};
/// nullopt for what is not there.
std::optional<MomentTemplate> momentTemplate(std::string_view pattern);

/// What is written: a moment on some clock, or a span of time.
struct MomentParts {
    bool isSpan = false;
    std::int64_t year = 1;  ///< of a span: years, months, days, and all its hours
    int month = 1;
    std::int64_t day = 1;
    std::int64_t hour = 0;
    int minute = 0, second = 0, micros = 0;
    std::int64_t offset = 0;  ///< seconds the clock is ahead of UTC
    bool hasZone = false;
};
MomentParts partsOfTimestamp(std::int64_t micros);
/// nullopt where a span has no such part.
std::optional<std::string> write(const MomentTemplate& pattern, const MomentParts& parts);

/// What was read: a moment on a clock, and how far that is ahead of UTC where the text says so.
struct ReadMoment {
    std::int64_t local = 0;
    std::optional<std::int64_t> offset;  ///< microseconds
};
/// nullopt where the text does not fit, says two things, or there is no such day.
std::optional<ReadMoment> read(const MomentTemplate& pattern, std::string_view text);

}  // namespace jollyrow
