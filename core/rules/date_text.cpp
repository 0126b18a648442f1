// SPDX-License-Identifier: MIT
// Dates and times as PostgreSQL reads them where nothing is left to its settings: the year stands first or is the only
// number of four digits beside a month's name. '1/8/1999', which is a day in January or in August, is none.
// Covered by tests/rules/typed_oracle_test.cpp.
#include <algorithm>
#include <array>
#include <string>
#include <vector>

#include "core/base/trimmed.h"
#include "core/columns/civil.h"
#include "core/rules/conversion.h"

namespace jollyrow {
namespace {

constexpr std::int64_t kMicrosPerHour = 3'600'000'000;

bool areDigits(std::string_view text) {
    return !text.empty() && std::all_of(text.begin(), text.end(), [](char c) { return c >= '0' && c <= '9'; });
}
int numberOf(std::string_view digits) {
    int value = 0;
    for (const char c : digits) value = value * 10 + (c - '0');
    return value;
}
std::string lowerOf(std::string_view text) {
    std::string out(text);
    std::transform(out.begin(), out.end(), out.begin(),
                   [](char c) { return c >= 'A' && c <= 'Z' ? static_cast<char>(c - 'A' + 'a') : c; });
    return out;
}

/// 0 when it names none.
unsigned monthOf(std::string_view word) {
    static constexpr std::array<std::string_view, 12> kMonths = {"january",   "february", "march",    "april",
                                                                 "may",       "june",     "july",     "august",
                                                                 "september", "october",  "november", "december"};
    const std::string lower = lowerOf(word);
    for (unsigned i = 0; i < kMonths.size(); ++i)
        if (lower == kMonths[i] || lower == kMonths[i].substr(0, 3)) return i + 1;
    return lower == "sept" ? 9 : 0;
}

std::vector<std::string_view> partsOf(std::string_view text, std::string_view between) {
    std::vector<std::string_view> parts;
    for (std::size_t at = 0; (at = text.find_first_not_of(between, at)) != std::string_view::npos;) {
        const std::size_t end = std::min(text.find_first_of(between, at), text.size());
        parts.push_back(text.substr(at, end - at));
        at = end;
    }
    return parts;
}

std::optional<std::int32_t> dayOfParts(std::string_view year, unsigned month, std::string_view day) {
    if (!areDigits(year) || year.size() != 4 || !areDigits(day) || day.size() > 2) return std::nullopt;
    return daysFromCivil({numberOf(year), month, static_cast<unsigned>(numberOf(day))});
}

/// One mark between the parts, the same one twice.
bool isSeparated(std::string_view text) {
    const std::size_t first = text.find_first_of("-/.");
    const std::size_t second = first == text.npos ? text.npos : text.find_first_of("-/.", first + 1);
    return second != text.npos && text[first] == text[second] && text.find_first_of("-/. ,", second + 1) == text.npos &&
           text.find_first_of(" ,") == text.npos;
}

std::optional<std::int32_t> looseDate(std::string_view text) {
    if (areDigits(text) && text.size() == 8)
        return dayOfParts(text.substr(0, 4), static_cast<unsigned>(numberOf(text.substr(4, 2))), text.substr(6));
    const auto parts = partsOf(text, "-/., ");
    if (parts.size() != 3) return std::nullopt;
    if (areDigits(parts[0]) && areDigits(parts[1]))
        return parts[1].size() <= 2 && isSeparated(text)
                   ? dayOfParts(parts[0], static_cast<unsigned>(numberOf(parts[1])), parts[2])
                   : std::nullopt;
    if (const unsigned month = monthOf(parts[0]); month != 0) return dayOfParts(parts[2], month, parts[1]);
    const unsigned month = monthOf(parts[1]);
    if (month == 0) return std::nullopt;
    const bool isYearFirst = parts[0].size() == 4;
    return isYearFirst ? dayOfParts(parts[0], month, parts[2]) : dayOfParts(parts[2], month, parts[0]);
}

/// "9:30", "9:30 pm".
std::optional<std::int64_t> looseTime(std::string_view text) {
    const std::string lower = lowerOf(text);
    std::string_view clock = lower;
    const bool isAfternoon = clock.ends_with("pm"), isHalf = isAfternoon || clock.ends_with("am");
    if (isHalf) clock = trimmed(clock.substr(0, clock.size() - 2));
    const std::size_t colon = clock.find(':');
    if (colon == 0 || colon > 2 || !areDigits(clock.substr(0, colon))) return std::nullopt;
    std::string padded(colon == 1 ? "0" : "");
    padded += clock;
    auto micros = parseIsoTime(padded);
    if (!micros || !isHalf) return micros;
    const int hour = numberOf(std::string_view(padded).substr(0, 2));
    if (hour == 0 || hour > 12) return std::nullopt;
    return *micros + (isAfternoon ? (hour == 12 ? 0 : 12) : (hour == 12 ? -12 : 0)) * kMicrosPerHour;
}

}  // namespace

std::optional<std::int32_t> dateFromText(std::string_view text) {
    text = trimmed(text);
    const auto iso = parseIsoDate(text);
    return iso ? iso : looseDate(text);
}

std::optional<std::int64_t> timeFromText(std::string_view text) {
    text = trimmed(text);
    const auto iso = parseIsoTime(text);
    return iso ? iso : looseTime(text);
}

std::optional<std::int64_t> timestampFromText(std::string_view text) {
    text = trimmed(text);
    if (const auto iso = parseIsoTimestamp(text)) return iso;
    const std::size_t colon = text.find(':');
    const std::size_t blank = colon == text.npos ? text.npos : text.rfind(' ', colon);
    const auto day = dateFromText(text.substr(0, blank));
    if (!day || colon == text.npos) return day ? std::optional(*day * kMicrosPerDay) : std::nullopt;
    if (blank == text.npos) return std::nullopt;
    const auto time = timeFromText(text.substr(blank + 1));
    return time ? std::optional(*day * kMicrosPerDay + *time) : std::nullopt;
}

}  // namespace jollyrow
