// SPDX-License-Identifier: MIT
// Points of time cut, put together and counted in years, months and days. Covered by tests/rules/typed_oracle_test.cpp
// and instants_oracle_test.cpp.
#include <array>
#include <cmath>

#include "core/columns/civil.h"
#include "core/rules/kernels.h"

namespace jollyrow {
namespace {

constexpr std::int64_t kMicrosPerSecond = 1'000'000, kMicrosPerMinute = 60 * kMicrosPerSecond,
                       kMicrosPerHour = 60 * kMicrosPerMinute;

/// Of the parts below a day; 0 for the others.
std::int64_t microsIn(DatePart part) {
    switch (part) {
        case DatePart::Microseconds: return 1;
        case DatePart::Milliseconds: return 1000;
        case DatePart::Second: return kMicrosPerSecond;
        case DatePart::Minute: return kMicrosPerMinute;
        case DatePart::Hour: return kMicrosPerHour;
        default: return 0;
    }
}

std::int64_t flooredTo(std::int64_t micros, std::int64_t unit) {
    const std::int64_t rest = micros % unit;
    return micros - (rest < 0 ? rest + unit : rest);
}

/// The first day of the part of the calendar that a day lies in; nullopt before year 1.
std::optional<std::int32_t> firstDay(DatePart part, std::int32_t day) {
    if (part == DatePart::Week) return day - isoWeekday(day) + 1;
    CivilDate date = civilFromDays(day);
    date.day = 1;
    switch (part) {
        case DatePart::Month: break;
        case DatePart::Quarter: date.month = (date.month - 1) / 3 * 3 + 1; break;
        default:
            date.month = 1;
            if (part == DatePart::Decade) date.year = date.year / 10 * 10;
            if (part == DatePart::Century) date.year = (date.year + 99) / 100 * 100 - 99;
            if (part == DatePart::Millennium) date.year = (date.year + 999) / 1000 * 1000 - 999;
    }
    return daysFromCivil(date);
}

std::optional<std::int64_t> truncatedStamp(DatePart part, std::int64_t micros) {
    if (const std::int64_t unit = microsIn(part); unit != 0) return flooredTo(micros, unit);
    const std::int64_t day = dayOf(micros);
    if (part == DatePart::Day) return day * kMicrosPerDay;
    const auto first = firstDay(part, static_cast<std::int32_t>(day));
    constexpr std::int32_t kFirstDay = -719162;  // 0001-01-01
    return first && *first >= kFirstDay ? std::optional(*first * kMicrosPerDay) : std::nullopt;
}

/// By the clocks of the zone; below a day the offset stays what it is.
std::optional<std::int64_t> truncatedInstant(DatePart part, std::int64_t micros, const TimeZone& zone) {
    const std::int64_t local = zone.toLocal(micros);
    const auto cut = truncatedStamp(part, local);
    if (!cut) return std::nullopt;
    return microsIn(part) != 0 ? *cut - (local - micros) : zone.toInstant(*cut);
}

Interval truncatedSpan(DatePart part, Interval v) {
    if (const std::int64_t unit = microsIn(part); unit != 0) return {v.months, v.days, v.micros / unit * unit};
    const int years = part == DatePart::Millennium ? 1000
                      : part == DatePart::Century  ? 100
                      : part == DatePart::Decade   ? 10
                                                   : 1;
    if (part == DatePart::Day) return {v.months, v.days, 0};
    const int months = part == DatePart::Month ? 1 : part == DatePart::Quarter ? 3 : 12 * years;
    return {v.months / months * months, 0, 0};
}

std::optional<std::int64_t> timeOf(std::int64_t hour, std::int64_t minute, double second) {
    constexpr int kHours = 24, kMinutes = 59, kSeconds = 60;
    if (hour < 0 || hour > kHours || minute < 0 || minute > kMinutes || !(second >= 0 && second <= kSeconds) ||
        (hour == kHours && (minute > 0 || second > 0)))
        return std::nullopt;
    return hour * kMicrosPerHour + minute * kMicrosPerMinute +
           static_cast<std::int64_t>(std::nearbyint(second * static_cast<double>(kMicrosPerSecond)));
}

std::optional<std::int64_t> dayFrom(std::int64_t year, std::int64_t month, std::int64_t day) {
    if (year < 1 || year > 9999 || month < 1 || month > 12 || day < 1 || day > 31) return std::nullopt;
    return daysFromCivil({static_cast<int>(year), static_cast<unsigned>(month), static_cast<unsigned>(day)});
}

unsigned daysInMonth(const CivilDate& date) {
    const CivilDate next = date.month == 12 ? CivilDate{date.year + 1, 1, 1} : CivilDate{date.year, date.month + 1, 1};
    const auto first = daysFromCivil({date.year, date.month, 1}), after = daysFromCivil(next);
    return first && after ? static_cast<unsigned>(*after - *first) : 31;
}

/// PostgreSQL's age: years, months and days as they are counted on a calendar, days borrowed from the month of the
/// earlier of the two.
Interval ageOf(std::int64_t later, std::int64_t earlier) {
    const CivilDate a = civilFromDays(static_cast<std::int32_t>(dayOf(later)));
    const CivilDate b = civilFromDays(static_cast<std::int32_t>(dayOf(earlier)));
    std::int64_t micros = (later - dayOf(later) * kMicrosPerDay) - (earlier - dayOf(earlier) * kMicrosPerDay);
    int days = static_cast<int>(a.day) - static_cast<int>(b.day);
    const int months = (a.year - b.year) * 12 + static_cast<int>(a.month) - static_cast<int>(b.month);
    int borrowed = 0;
    if (micros < 0) {
        micros += kMicrosPerDay;
        --days;
    }
    if (days < 0) {
        days += static_cast<int>(daysInMonth(b));
        borrowed = 1;
    }
    return {months - borrowed, days, micros};
}

}  // namespace

void runTruncateTime(DatePart part, const Vector& in, const TimeZone& zone, std::size_t n, Vector& out) {
    joinStates(std::array{&in}, n, out);
    if (in.kind == RuleKind::Interval) {
        Interval* result = out.makeIntervals();
        for (std::size_t i = 0; i < n; ++i)
            result[i] = out.state(i) == CellState::Filled ? truncatedSpan(part, in.intervals[in.at(i)]) : Interval{};
        return;
    }
    std::int64_t* result = out.makeIntegers();
    for (std::size_t i = 0; i < n; ++i) {
        result[i] = 0;
        if (out.state(i) != CellState::Filled) continue;
        const std::int64_t micros = in.integers[in.at(i)];
        const auto cut =
            in.kind == RuleKind::Instant ? truncatedInstant(part, micros, zone) : truncatedStamp(part, micros);
        if (cut)
            result[i] = *cut;
        else
            setState(out, n, i, CellState::TooLarge);
    }
}

void runMakeMoment(Op op, Operands in, std::size_t n, Vector& out) {
    joinStates(in, n, out);
    std::int64_t* result = out.makeIntegers();
    for (std::size_t i = 0; i < n; ++i) {
        result[i] = 0;
        if (out.state(i) != CellState::Filled) continue;
        const auto whole = [&](std::size_t k) { return in[k]->integers[in[k]->at(i)]; };
        const std::size_t clock = op == Op::MakeTimestamp ? 3 : 0;  // where hours stand
        const auto day = op == Op::MakeTime ? std::optional<std::int64_t>(0) : dayFrom(whole(0), whole(1), whole(2));
        const auto time = op == Op::MakeDate
                              ? std::optional<std::int64_t>(0)
                              : timeOf(whole(clock), whole(clock + 1), in[clock + 2]->reals[in[clock + 2]->at(i)]);
        if (day && time)
            result[i] = op == Op::MakeDate ? *day : *day * kMicrosPerDay + *time;
        else
            setState(out, n, i, CellState::NoSuchDate);
    }
}

void runAge(const Vector& to, const Vector& from, std::size_t n, Vector& out) {
    joinStates(std::array{&to, &from}, n, out);
    Interval* result = out.makeIntervals();
    for (std::size_t i = 0; i < n; ++i) {
        result[i] = {};
        if (out.state(i) != CellState::Filled) continue;
        const std::int64_t a = to.integers[to.at(i)], b = from.integers[from.at(i)];
        result[i] = a >= b ? ageOf(a, b) : negated(ageOf(b, a)).value_or(Interval{});
    }
}

}  // namespace jollyrow
