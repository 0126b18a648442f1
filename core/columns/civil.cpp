// SPDX-License-Identifier: MIT
#include "core/columns/civil.h"

#include <chrono>
#include <ctime>

namespace jollyrow {
namespace {

/// Reads exactly `count` digits at `at`; moves `at` past them.
std::optional<int> digits(std::string_view text, std::size_t& at, std::size_t count) {
    if (at + count > text.size()) return std::nullopt;
    int value = 0;
    for (std::size_t i = 0; i < count; ++i) {
        const char c = text[at + i];
        if (c < '0' || c > '9') return std::nullopt;
        value = value * 10 + (c - '0');
    }
    at += count;
    return value;
}

bool literal(std::string_view text, std::size_t& at, char c) {
    if (at >= text.size() || text[at] != c) return false;
    ++at;
    return true;
}

void appendPadded(std::string& out, std::int64_t value, int width) {
    const std::string plain = std::to_string(value);
    out.append(plain.size() < static_cast<std::size_t>(width) ? static_cast<std::size_t>(width) - plain.size() : 0,
               '0');
    out += plain;
}

/// Up to 24:59:59.999999; the caller looks at the end of the day.
std::optional<std::int64_t> parseClock(std::string_view text) {
    std::size_t at = 0;
    const auto hour = digits(text, at, 2);
    constexpr int kMidnight = 24;  // the end of a day: 24:00, and nothing after it (ISO 8601)
    if (!hour || *hour > kMidnight || !literal(text, at, ':')) return std::nullopt;
    const auto minute = digits(text, at, 2);
    if (!minute || *minute > 59) return std::nullopt;
    std::int64_t micros = (static_cast<std::int64_t>(*hour) * 60 + *minute) * 60'000'000;
    if (at == text.size()) return micros;
    if (!literal(text, at, ':')) return std::nullopt;
    const auto second = digits(text, at, 2);
    if (!second || *second > 59) return std::nullopt;
    micros += static_cast<std::int64_t>(*second) * 1'000'000;
    if (at == text.size()) return micros;
    if (!literal(text, at, '.') || at == text.size() || text.size() - at > 6) return std::nullopt;
    std::int64_t unit = 100'000;
    for (; at < text.size(); unit /= 10) {
        const auto digit = digits(text, at, 1);
        if (!digit) return std::nullopt;
        micros += *digit * unit;
    }
    return micros;
}

}  // namespace

std::optional<std::int32_t> daysFromCivil(CivilDate date) {
    using namespace std::chrono;
    const year_month_day ymd{year{date.year}, month{date.month}, day{date.day}};
    if (!ymd.ok() || date.year < 1 || date.year > 9999) return std::nullopt;
    return static_cast<std::int32_t>(sys_days{ymd}.time_since_epoch().count());
}

CivilDate civilFromDays(std::int32_t count) {
    using namespace std::chrono;
    const year_month_day ymd{sys_days{days{count}}};
    return {static_cast<int>(ymd.year()), static_cast<unsigned>(ymd.month()), static_cast<unsigned>(ymd.day())};
}

int isoWeekday(std::int32_t count) {
    return static_cast<int>(std::chrono::weekday{std::chrono::sys_days{std::chrono::days{count}}}.iso_encoding());
}

std::int32_t today() {
    const std::time_t now = std::time(nullptr);
    std::tm local{};
    localtime_r(&now, &local);
    return *daysFromCivil(
        {local.tm_year + 1900, static_cast<unsigned>(local.tm_mon + 1), static_cast<unsigned>(local.tm_mday)});
}

std::int64_t localNow() {
    const std::time_t now = std::time(nullptr);
    std::tm local{};
    localtime_r(&now, &local);
    const auto day = *daysFromCivil(
        {local.tm_year + 1900, static_cast<unsigned>(local.tm_mon + 1), static_cast<unsigned>(local.tm_mday)});
    const std::int64_t seconds = (local.tm_hour * 60 + local.tm_min) * 60 + std::min(local.tm_sec, 59);
    return day * kMicrosPerDay + seconds * 1'000'000;
}

std::optional<std::int32_t> parseIsoDate(std::string_view text) {
    std::size_t at = 0;
    const auto year = digits(text, at, 4);
    if (!year || !literal(text, at, '-')) return std::nullopt;
    const auto month = digits(text, at, 2);
    if (!month || !literal(text, at, '-')) return std::nullopt;
    const auto day = digits(text, at, 2);
    if (!day || at != text.size()) return std::nullopt;
    return daysFromCivil({*year, static_cast<unsigned>(*month), static_cast<unsigned>(*day)});
}

std::optional<std::int64_t> parseIsoTime(std::string_view text) {
    const auto micros = parseClock(text);
    return micros && *micros <= kMicrosPerDay ? micros : std::nullopt;
}

std::optional<std::int64_t> parseIsoTimestamp(std::string_view text) {
    const auto date = parseIsoDate(text.substr(0, 10));
    if (!date) return std::nullopt;
    const std::int64_t midnight = static_cast<std::int64_t>(*date) * kMicrosPerDay;
    if (text.size() == 10) return midnight;
    if (text[10] != 'T' && text[10] != ' ') return std::nullopt;
    const auto time = parseIsoTime(text.substr(11));
    static const std::int64_t kEnd = (*daysFromCivil({9999, 12, 31}) + std::int64_t{1}) * kMicrosPerDay;
    return time && midnight + *time < kEnd ? std::optional(midnight + *time) : std::nullopt;
}

void appendIsoDate(std::string& out, std::int32_t days) {
    const CivilDate date = civilFromDays(days);
    appendPadded(out, date.year, 4);
    out += '-';
    appendPadded(out, date.month, 2);
    out += '-';
    appendPadded(out, date.day, 2);
}

void appendIsoTime(std::string& out, std::int64_t micros) {
    const std::int64_t seconds = micros / 1'000'000;
    appendPadded(out, seconds / 3600, 2);
    out += ':';
    appendPadded(out, seconds / 60 % 60, 2);
    out += ':';
    appendPadded(out, seconds % 60, 2);
    if (const std::int64_t fraction = micros % 1'000'000; fraction != 0) {
        out += '.';
        appendPadded(out, fraction, 6);
        while (out.back() == '0') out.pop_back();
    }
}

void appendIsoTimestamp(std::string& out, std::int64_t micros) {
    std::int64_t days = micros / kMicrosPerDay;
    if (micros % kMicrosPerDay < 0) --days;
    appendIsoDate(out, static_cast<std::int32_t>(days));
    out += 'T';
    appendIsoTime(out, micros - days * kMicrosPerDay);
}

}  // namespace jollyrow
