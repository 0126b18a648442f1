// SPDX-License-Identifier: MIT
#include "core/columns/interval.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>
#include <cstdlib>
#include <limits>
#include <set>
#include <utility>
#include <vector>

#include "core/columns/civil.h"
#include "core/columns/decimal.h"

namespace jollyrow {
namespace {

constexpr std::int64_t kMicrosPerHour = 3'600'000'000;

Int128 comparable(const Interval& v) {
    return (static_cast<Int128>(v.months) * 30 + v.days) * kMicrosPerDay + v.micros;
}

enum class Unit { Millennium, Century, Decade, Year, Month, Week, Day, Hour, Minute, Second, Milli, Micro };

std::optional<Unit> unitFromName(std::string_view word) {
    std::string lower(word);
    std::transform(lower.begin(), lower.end(), lower.begin(),
                   [](char c) { return static_cast<char>(std::tolower(static_cast<unsigned char>(c))); });
    static constexpr std::array kNames =
        std::to_array<std::pair<std::string_view, Unit>>({{"year", Unit::Year},
                                                          {"yr", Unit::Year},
                                                          {"y", Unit::Year},
                                                          {"month", Unit::Month},
                                                          {"mon", Unit::Month},
                                                          {"week", Unit::Week},
                                                          {"w", Unit::Week},
                                                          {"day", Unit::Day},
                                                          {"d", Unit::Day},
                                                          {"hour", Unit::Hour},
                                                          {"hr", Unit::Hour},
                                                          {"h", Unit::Hour},
                                                          {"minute", Unit::Minute},
                                                          {"min", Unit::Minute},
                                                          {"m", Unit::Minute},
                                                          {"second", Unit::Second},
                                                          {"sec", Unit::Second},
                                                          {"s", Unit::Second},
                                                          {"millisecond", Unit::Milli},
                                                          {"msec", Unit::Milli},
                                                          {"ms", Unit::Milli},
                                                          {"microsecond", Unit::Micro},
                                                          {"usec", Unit::Micro},
                                                          {"us", Unit::Micro},
                                                          {"decade", Unit::Decade},
                                                          {"dec", Unit::Decade},
                                                          {"century", Unit::Century},
                                                          {"centurie", Unit::Century},
                                                          {"cent", Unit::Century},
                                                          {"c", Unit::Century},
                                                          {"millennium", Unit::Millennium},
                                                          {"millennia", Unit::Millennium},
                                                          {"mil", Unit::Millennium}});
    const auto named = [&](std::string_view wanted) -> std::optional<Unit> {
        for (const auto& [name, unit] : kNames)
            if (name == wanted) return unit;
        return std::nullopt;
    };
    auto unit = named(lower);
    if (!unit && lower.size() > 2 && lower.back() == 's')
        unit = named(std::string_view(lower).substr(0, lower.size() - 1));
    return unit;
}

std::optional<std::int32_t> narrow32(Int128 v) {
    if (v > std::numeric_limits<std::int32_t>::max() || v < std::numeric_limits<std::int32_t>::min())
        return std::nullopt;
    return static_cast<std::int32_t>(v);
}
std::optional<std::int64_t> narrow64(Int128 v) {
    if (v > std::numeric_limits<std::int64_t>::max() || v < std::numeric_limits<std::int64_t>::min())
        return std::nullopt;
    return static_cast<std::int64_t>(v);
}

std::optional<Interval> made(Int128 months, Int128 days, Int128 micros) {
    const auto m = narrow32(months), d = narrow32(days);
    const auto u = narrow64(micros);
    if (!m || !d || !u) return std::nullopt;
    return Interval{*m, *d, *u};
}

struct Parts {
    Int128 months = 0, days = 0, micros = 0;

    /// A fraction goes on in the smaller units, as PostgreSQL has it: of years in months, of months (30 days), weeks
    /// and days in days and the time.
    bool add(Decimal number, Unit unit) {
        const std::int64_t power = powerOfTen(number.scale);
        const std::int64_t n = number.mantissa / power;
        const double fraction = static_cast<double>(number.mantissa % power) / static_cast<double>(power);
        switch (unit) {
            case Unit::Millennium: return addYears(n, fraction, 1000);
            case Unit::Century: return addYears(n, fraction, 100);
            case Unit::Decade: return addYears(n, fraction, 10);
            case Unit::Year: return addYears(n, fraction, 1);
            case Unit::Month: months += n; return addDays(fraction * 30);
            case Unit::Week: days += static_cast<Int128>(n) * 7; return addDays(fraction * 7);
            case Unit::Day: days += n; return addDays(fraction);
            case Unit::Hour: return addTime(number, kMicrosPerHour);
            case Unit::Minute: return addTime(number, 60'000'000);
            case Unit::Second: return addTime(number, 1'000'000);
            case Unit::Milli: return addTime(number, 1000);
            case Unit::Micro: return addTime(number, 1);
        }
        return false;
    }
    bool addYears(std::int64_t n, double fraction, int years) {
        months +=
            static_cast<Int128>(n) * 12 * years + static_cast<std::int64_t>(std::nearbyint(fraction * years * 12));
        return true;
    }
    bool addDays(double more) {
        const auto whole = static_cast<std::int64_t>(more);
        days += whole;
        micros += static_cast<std::int64_t>(
            std::nearbyint((more - static_cast<double>(whole)) * static_cast<double>(kMicrosPerDay)));
        return true;
    }
    bool addTime(Decimal number, std::int64_t unit) {
        const Int128 scaled = static_cast<Int128>(number.mantissa) * unit;
        const std::int64_t power = powerOfTen(number.scale);
        const Int128 rest = scaled % power;
        micros += scaled / power;
        if (2 * rest > power) ++micros;
        if (2 * rest < -power) --micros;
        return true;
    }
    void turn() {
        months = -months;
        days = -days;
        micros = -micros;
    }
};

/// "04:05:06.25", "4:05"; as minutes and seconds "4:05.25".
std::optional<std::int64_t> clockTime(std::string_view word, bool minutesToSeconds) {
    bool negative = false;
    if (!word.empty() && (word[0] == '-' || word[0] == '+')) {
        negative = word[0] == '-';
        word.remove_prefix(1);
    }
    const std::size_t first = word.find(':');
    if (first == std::string_view::npos) return std::nullopt;
    const std::size_t second = word.find(':', first + 1);
    if (minutesToSeconds && second == std::string_view::npos) {
        const auto whole = clockTime("0:" + std::string(word), false);
        return whole && negative ? -*whole : whole;
    }
    const auto hours = parseDecimal(word.substr(0, first));
    const auto minutes =
        parseDecimal(word.substr(first + 1, second == std::string_view::npos ? second : second - first - 1));
    const auto seconds =
        second == std::string_view::npos ? std::optional(Decimal{}) : parseDecimal(word.substr(second + 1));
    if (!hours || !minutes || !seconds || hours->scale != 0 || minutes->scale != 0 || seconds->scale > 6 ||
        hours->mantissa > 1'000'000 || minutes->mantissa > 59 || *seconds >= Decimal{60, 0})
        return std::nullopt;
    const std::int64_t micros = hours->mantissa * kMicrosPerHour + minutes->mantissa * 60'000'000 +
                                seconds->mantissa * powerOfTen(6 - seconds->scale);
    return negative ? -micros : micros;
}

}  // namespace

std::strong_ordering operator<=>(const Interval& a, const Interval& b) {
    const Int128 left = comparable(a), right = comparable(b);
    return left < right   ? std::strong_ordering::less
           : left > right ? std::strong_ordering::greater
                          : std::strong_ordering::equal;
}

namespace {

/// "1-2": years and months; the sign counts for both.
std::optional<Int128> yearsAndMonths(std::string_view word) {
    const bool isNegative = word.starts_with('-');
    if (isNegative || word.starts_with('+')) word.remove_prefix(1);
    const std::size_t dash = word.find('-');
    if (dash == std::string_view::npos || dash == 0) return std::nullopt;
    const auto years = parseDecimal(word.substr(0, dash)), months = parseDecimal(word.substr(dash + 1));
    if (!years || !months || years->scale != 0 || months->scale != 0 || months->mantissa < 0 || months->mantissa > 11 ||
        years->mantissa > 200'000'000)
        return std::nullopt;
    const Int128 all = static_cast<Int128>(years->mantissa) * 12 + months->mantissa;
    return isNegative ? -all : all;
}

/// The other form of ISO 8601: "P0001-02-03T04:05:06".
std::optional<Interval> isoAlternative(std::string_view text) {
    const std::size_t t = text.find('T');
    const std::string_view date = text.substr(0, t);
    const std::size_t dash = date.rfind('-');
    if (dash == std::string_view::npos || dash == 0) return std::nullopt;
    const auto months = yearsAndMonths(date.substr(0, dash));
    const auto days = parseDecimal(date.substr(dash + 1));
    const auto time =
        t == std::string_view::npos ? std::optional<std::int64_t>(0) : clockTime(text.substr(t + 1), false);
    if (!months || !days || days->scale != 0 || !time) return std::nullopt;
    return made(*months, days->mantissa, *time);
}

/// ISO 8601: "P1Y2M3DT4H5M6.5S", "P2W"; a part may be negative, as PostgreSQL has it.
std::optional<Interval> isoDuration(std::string_view text) {
    Parts parts;
    bool isTime = false, any = false;
    if (const auto alternative = isoAlternative(text.substr(1))) return alternative;
    std::string_view order = "YMWDTHMS";  // each at most once, in this order
    text.remove_prefix(1);
    while (!text.empty()) {
        if (text[0] == 'T' && !isTime) {
            isTime = true;
            text.remove_prefix(1);
            order = "HMS";
            continue;
        }
        const std::size_t digits = std::min(text.find_first_not_of("-0123456789."), text.size());
        const auto number = parseDecimal(text.substr(0, digits));
        if (!number || digits == text.size() || std::abs(number->mantissa) > std::int64_t{1} << 52) return std::nullopt;
        const std::size_t place = order.find(text[digits]);
        if (place == std::string_view::npos || text[digits] == 'T') return std::nullopt;
        if (!isTime && place > order.find('T')) return std::nullopt;
        const Unit unit = isTime                ? (text[digits] == 'H'   ? Unit::Hour
                                                   : text[digits] == 'M' ? Unit::Minute
                                                                         : Unit::Second)
                          : text[digits] == 'Y' ? Unit::Year
                          : text[digits] == 'M' ? Unit::Month
                          : text[digits] == 'W' ? Unit::Week
                                                : Unit::Day;
        if (!parts.add(*number, unit)) return std::nullopt;
        order.remove_prefix(place + 1);
        text.remove_prefix(digits + 1);
        any = true;
    }
    return any ? made(parts.months, parts.days, parts.micros) : std::nullopt;
}

/// What is finer than the qualifier's last field is left out (PostgreSQL's interval fields).
std::optional<Interval> cutTo(Interval v, Unit last) {
    if (last <= Unit::Month) v.days = 0;
    if (last == Unit::Year) v.months -= v.months % 12;
    if (last <= Unit::Day) v.micros = 0;
    if (last == Unit::Hour) v.micros -= v.micros % kMicrosPerHour;
    if (last == Unit::Minute) v.micros -= v.micros % 60'000'000;
    return v;
}

}  // namespace

std::optional<Interval> parseInterval(std::string_view text, std::string_view unit) {
    if (unit.empty() && text.starts_with('P')) return isoDuration(text);
    Parts parts;
    // "YEAR TO MONTH": '1-2'
    if (unit.find(" TO ") != std::string_view::npos && unit.starts_with("YEAR")) {
        const std::size_t dash = text.find('-', 1);
        if (dash == std::string_view::npos) return std::nullopt;
        const auto years = parseDecimal(text.substr(0, dash)), months = parseDecimal(text.substr(dash + 1));
        if (!years || !months || years->scale != 0 || months->scale != 0 || months->mantissa > 11) return std::nullopt;
        const int sign = text[0] == '-' ? -1 : 1;
        return made(static_cast<Int128>(years->mantissa) * 12 + sign * months->mantissa, 0, 0);
    }
    // As PostgreSQL reads it, from the end: a number without a unit has the qualifier's last one; before hours, and
    // before a time of day, stand days.
    const std::size_t to = unit.find(" TO ");
    const auto last = unitFromName(to == std::string_view::npos ? unit : unit.substr(to + 4));
    if (!unit.empty() && !last) return std::nullopt;
    std::vector<std::string_view> words;
    for (std::size_t at = 0; at < text.size();) {
        const std::size_t start = text.find_first_not_of(' ', at);
        if (start == std::string_view::npos) break;
        at = std::min(text.find(' ', start), text.size());
        words.push_back(text.substr(start, at - start));
    }
    const bool isAgo = words.size() > 1 && (words.back() == "ago" || words.back() == "AGO");
    if (isAgo) words.pop_back();
    if (words.empty()) return std::nullopt;
    std::optional<Unit> bare = last, named;
    std::set<Unit> bareSeen, namedSeen;
    bool hasYearsAndMonths = false;
    for (std::size_t i = words.size(); i-- > 0;) {
        const std::string_view word = words[i];
        if (!named)
            if (const auto time = clockTime(word, unit == "MINUTE TO SECOND")) {
                parts.micros += *time;
                bare = Unit::Day;
                continue;
            }
        if (const auto months = named ? std::nullopt : yearsAndMonths(word)) {
            if (std::exchange(hasYearsAndMonths, true)) return std::nullopt;
            parts.months += *months;
            continue;
        }
        std::size_t digits = 0;
        while (digits < word.size() && std::string_view("+-.0123456789").find(word[digits]) != std::string_view::npos)
            ++digits;
        if (digits == 0) {
            if (named || i == 0) return std::nullopt;
            named = unitFromName(word);
            if (!named) return std::nullopt;
            continue;
        }
        const auto number = parseDecimal(word.substr(0, digits));
        if (!number || number->mantissa > std::int64_t{1} << 52 || number->mantissa < -(std::int64_t{1} << 52))
            return std::nullopt;
        auto meant = digits < word.size() ? unitFromName(word.substr(digits)) : std::exchange(named, std::nullopt);
        if (meant && !namedSeen.insert(*meant).second) return std::nullopt;  // said twice
        if (!meant && digits == word.size()) {
            meant = bare;
            if (!meant || !bareSeen.insert(*meant).second) return std::nullopt;
            if (meant == Unit::Hour) bare = Unit::Day;
        }
        if (!meant || named || !parts.add(*number, *meant)) return std::nullopt;
    }
    if (named) return std::nullopt;
    if (isAgo) parts.turn();
    const auto whole = made(parts.months, parts.days, parts.micros);
    return whole && last ? cutTo(*whole, *last) : whole;
}

std::string toString(const Interval& value) {
    std::string out;
    bool afterNegative = false;
    const auto part = [&](std::int64_t n, std::string_view unit) {
        if (n == 0) return;
        if (!out.empty()) out += ' ';
        out += fmt::format("{}{} {}{}", afterNegative && n > 0 ? "+" : "", n, unit, n == 1 ? "" : "s");
        afterNegative = n < 0;
    };
    part(value.months / 12, "year");
    part(value.months % 12, "mon");
    part(value.days, "day");
    if (value.micros == 0 && !out.empty()) return out;
    if (!out.empty()) out += ' ';
    const UnsignedInt128 all =
        value.micros < 0 ? -static_cast<UnsignedInt128>(value.micros) : static_cast<UnsignedInt128>(value.micros);
    const auto micros = static_cast<std::uint64_t>(all);
    if (value.micros < 0)
        out += '-';
    else if (afterNegative)
        out += '+';
    out += fmt::format("{:02}:{:02}:{:02}", micros / kMicrosPerHour, micros / 60'000'000 % 60, micros / 1'000'000 % 60);
    if (const std::uint64_t fraction = micros % 1'000'000; fraction != 0) {
        out += fmt::format(".{:06}", fraction);
        while (out.back() == '0') out.pop_back();
    }
    return out;
}

std::optional<Interval> added(const Interval& a, const Interval& b) {
    return made(static_cast<Int128>(a.months) + b.months, static_cast<Int128>(a.days) + b.days,
                static_cast<Int128>(a.micros) + b.micros);
}

std::optional<Interval> negated(const Interval& a) {
    return made(-static_cast<Int128>(a.months), -static_cast<Int128>(a.days), -static_cast<Int128>(a.micros));
}

std::optional<Interval> multiplied(const Interval& a, std::int64_t times) {
    return made(static_cast<Int128>(a.months) * times, static_cast<Int128>(a.days) * times,
                static_cast<Int128>(a.micros) * times);
}

std::optional<Interval> scaled(const Interval& a, double factor, bool divides) {
    constexpr double kDaysPerMonth = 30, kSecondsPerDay = 86400, kMicros = 1e6;
    const auto times = [&](double value) { return divides ? value / factor : value * factor; };
    const auto toMicros = [](double value) { return std::nearbyint(value * kMicros) / kMicros; };
    const double months = times(a.months), days = times(a.days);
    constexpr double kMost = std::numeric_limits<std::int32_t>::max();
    if (!(std::fabs(months) < kMost) || !(std::fabs(days) < kMost)) return std::nullopt;
    const double wholeMonths = std::trunc(months), wholeDays = std::trunc(days);
    const double daysLeft = toMicros((months - wholeMonths) * kDaysPerMonth);
    double seconds = toMicros((days - wholeDays + daysLeft - std::trunc(daysLeft)) * kSecondsPerDay);
    double more = 0;
    if (std::fabs(seconds) >= kSecondsPerDay) {  // 24:00 by rounding
        more = std::trunc(seconds / kSecondsPerDay);
        seconds -= more * kSecondsPerDay;
    }
    const double micros = std::nearbyint(times(static_cast<double>(a.micros)) + seconds * kMicros);
    if (!(std::fabs(micros) < 9.2e18)) return std::nullopt;
    return made(static_cast<std::int64_t>(wholeMonths),
                static_cast<std::int64_t>(wholeDays + more + std::trunc(daysLeft)), static_cast<std::int64_t>(micros));
}

std::optional<std::int64_t> addedToTimestamp(std::int64_t micros, const Interval& interval) {
    std::int64_t days = micros / kMicrosPerDay, rest = micros % kMicrosPerDay;
    if (rest < 0) {
        rest += kMicrosPerDay;
        --days;
    }
    if (interval.months != 0) {
        CivilDate date = civilFromDays(static_cast<std::int32_t>(days));
        const std::int64_t month = static_cast<std::int64_t>(date.year) * 12 + (date.month - 1) + interval.months;
        if (month < 12 || month >= 10000 * 12) return std::nullopt;
        date.year = static_cast<int>(month / 12);
        date.month = static_cast<unsigned>(month % 12) + 1;
        for (auto moved = daysFromCivil(date);; moved = daysFromCivil(date)) {
            if (moved) {
                days = *moved;
                break;
            }
            --date.day;
        }
    }
    const Int128 sum = (static_cast<Int128>(days) + interval.days) * kMicrosPerDay + rest + interval.micros;
    static const Int128 kLeast = static_cast<Int128>(*daysFromCivil({1, 1, 1})) * kMicrosPerDay;
    static const Int128 kMost = (static_cast<Int128>(*daysFromCivil({9999, 12, 31})) + 1) * kMicrosPerDay;
    if (sum < kLeast || sum >= kMost) return std::nullopt;
    return static_cast<std::int64_t>(sum);
}

}  // namespace jollyrow
