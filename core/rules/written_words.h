// SPDX-License-Identifier: MIT
#pragma once
// The words that the patterns of TO_CHAR and TO_DATE know: English names of months and days, endings of ordinal numbers.

#include <array>
#include <cstddef>
#include <string_view>

namespace jollyrow {

inline constexpr std::array<std::string_view, 12> kMonthNames = {"January", "February", "March",     "April",
                                                                "May",     "June",     "July",      "August",
                                                                "September", "October", "November", "December"};
inline constexpr std::array<std::string_view, 7> kDayNames = {"Sunday",   "Monday", "Tuesday", "Wednesday",
                                                             "Thursday", "Friday", "Saturday"};
inline constexpr std::array<std::string_view, 12> kRomanMonths = {"I",   "II",   "III", "IV", "V",  "VI",
                                                                 "VII", "VIII", "IX",  "X",  "XI", "XII"};

/// "ST" of 1 and 21, "TH" of 11. Requires: the number has a digit at its end.
inline std::string_view ordinalEnding(std::string_view number, bool isLower) {
    constexpr std::array<std::string_view, 4> kUpper = {"TH", "ST", "ND", "RD"}, kLower = {"th", "st", "nd", "rd"};
    const bool isTeen = number.size() > 1 && number[number.size() - 2] == '1';
    const char last = number.empty() ? '0' : number.back();
    const std::size_t at = isTeen || last < '1' || last > '3' ? 0 : static_cast<std::size_t>(last - '0');
    return isLower ? kLower[at] : kUpper[at];
}

/// A sign that may stand between the fields of a date.
inline bool isFieldSeparator(char c) {
    const bool isLetter = (c >= 'A' && c <= 'Z') || (c >= 'a' && c <= 'z');
    return c > ' ' && c < 0x7F && !isLetter && !(c >= '0' && c <= '9');
}

}  // namespace jollyrow
