// SPDX-License-Identifier: MIT
// Covered by tests/formats/loose_date_test.cpp.
#include "core/formats/loose_date.h"

#include <algorithm>
#include <charconv>
#include <string>

#include "core/base/trimmed.h"
#include "core/columns/civil.h"

namespace jollyrow {
namespace {

constexpr std::string_view kDayNames[] = {"monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"};
constexpr std::string_view kMonthNames[] = {"jan", "feb", "mar", "apr", "may", "jun",
                                        "jul", "aug", "sep", "oct", "nov", "dec"};
constexpr int kMostStep = 100'000;

std::string smallLetters(std::string_view text) {
    std::string out(trimmed(text));
    for (char& c : out) c = c >= 'A' && c <= 'Z' ? static_cast<char>(c + 32) : c;
    return out;
}

std::optional<int> wholeOf(std::string_view text) {
    int number = 0;
    const auto read = std::from_chars(text.data(), text.data() + text.size(), number);
    if (read.ec != std::errc() || read.ptr != text.data() + text.size()) return std::nullopt;
    return number;
}

/// The same day so many months on; the month's last where it has fewer.
std::optional<std::int32_t> monthsOn(std::int32_t from, int months) {
    const CivilDate date = civilFromDays(from);
    const int at = date.year * 12 + static_cast<int>(date.month) - 1 + months;
    if (at < 12) return std::nullopt;
    for (unsigned day = date.day; day > 27; --day)
        if (const auto days = daysFromCivil({at / 12, static_cast<unsigned>(at % 12) + 1, day})) return days;
    return daysFromCivil({at / 12, static_cast<unsigned>(at % 12) + 1, std::min(date.day, 28U)});
}

/// "+2w", "-10d", "+3" (days).
std::optional<std::int32_t> stepFrom(std::string_view text, std::int32_t today) {
    const bool back = text.front() == '-';
    text.remove_prefix(1);
    const char unit = text.empty() || (text.back() >= '0' && text.back() <= '9') ? 'd' : text.back();
    if (!text.empty() && !(text.back() >= '0' && text.back() <= '9')) text.remove_suffix(1);
    const auto count = wholeOf(trimmed(text));
    if (!count || *count < 0 || *count > kMostStep) return std::nullopt;
    const int by = back ? -*count : *count;
    const auto shifted = [today](std::int64_t days) -> std::optional<std::int32_t> {
        const CivilDate date = civilFromDays(static_cast<std::int32_t>(today + days));
        return daysFromCivil(date);
    };
    switch (unit) {
        case 'd': return shifted(by);
        case 'w': return shifted(std::int64_t{7} * by);
        case 'm': return monthsOn(today, by);
        case 'y': return std::abs(by) > 10'000 ? std::nullopt : monthsOn(today, by * 12);
        default: return std::nullopt;
    }
}

std::optional<std::int32_t> weekday(std::string_view text, std::int32_t today) {
    for (int day = 0; day < 7; ++day)
        if (text.size() >= 3 && kDayNames[day].substr(0, text.size()) == text)
            return today + (day + 1 - isoWeekday(today) + 7) % 7;
    return std::nullopt;
}

struct Named {
    unsigned day = 0, month = 0;
    int year = 0;
};

/// "31 Feb 2027", "31.2.2027", "31 february", "2027-02-31".
std::optional<Named> namedDay(const std::string& text, std::int32_t today) {
    std::vector<std::string> parts(1);
    for (const char c : text) {
        const bool isBetween = c == ' ' || c == '.' || c == ',' || c == '-' || c == '/';
        if (!isBetween)
            parts.back() += c;
        else if (!parts.back().empty())
            parts.emplace_back();
    }
    if (parts.back().empty()) parts.pop_back();
    if (parts.size() == 3 && parts[0].size() == 4) std::swap(parts[0], parts[2]);
    if (parts.size() < 2 || parts.size() > 3) return std::nullopt;
    const auto day = wholeOf(parts[0]);
    auto month = wholeOf(parts[1]);
    for (int m = 0; m < 12 && parts[1].size() >= 3; ++m)
        if (parts[1].substr(0, 3) == kMonthNames[m]) month = m + 1;
    const auto year = parts.size() == 3 ? wholeOf(parts[2]) : std::optional(civilFromDays(today).year);
    if (!day || !month || !year || *day < 1 || *day > 31 || *month < 1 || *month > 12 || *year < 1 || *year > 9999)
        return std::nullopt;
    return Named{static_cast<unsigned>(*day), static_cast<unsigned>(*month), *year};
}

}  // namespace

std::optional<std::int32_t> looseDate(std::string_view typed, std::int32_t today) {
    std::string text = smallLetters(typed);
    if (text == "today") return today;
    if (text == "tomorrow") return today + 1;
    if (text == "yesterday") return today - 1;
    if (text.empty()) return std::nullopt;
    if (text.front() == '+' || text.front() == '-') return stepFrom(text, today);
    if (const auto day = weekday(text, today)) return day;
    if (text.back() == '.') text.pop_back();
    const auto day = text.size() <= 2 ? wholeOf(text) : std::nullopt;
    if (!day || *day < 1) return std::nullopt;
    const CivilDate now = civilFromDays(today);
    return daysFromCivil({now.year, now.month, static_cast<unsigned>(*day)});
}

std::vector<std::int32_t> datesNear(std::string_view typed, std::int32_t today) {
    const auto named = namedDay(smallLetters(typed), today);
    if (!named || daysFromCivil({named->year, named->month, named->day})) return {};
    std::vector<std::int32_t> near;
    for (unsigned day = named->day; day > 0 && near.empty(); --day)
        if (const auto last = daysFromCivil({named->year, named->month, day})) near.push_back(*last);
    if (const auto first = daysFromCivil({named->year, named->month, 1}))
        near.push_back(*first + static_cast<std::int32_t>(named->day) - 1);
    return near;
}

}  // namespace jollyrow
