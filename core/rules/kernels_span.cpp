// SPDX-License-Identifier: MIT
// Spans of time from their parts and brought to the usual ones, points of time in other zones, and the bits of whole
// numbers. Covered by tests/rules/typed_oracle_test.cpp.
#include <cmath>
#include <limits>
#include <optional>
#include <string>

#include "core/columns/civil.h"
#include "core/rules/kernels.h"

namespace jollyrow {
namespace {

constexpr int kDaysPerMonth = 30;

template <class T>
std::optional<T> fitted(Int128 value) {
    if (value < std::numeric_limits<T>::min() || value > std::numeric_limits<T>::max()) return std::nullopt;
    return static_cast<T>(value);
}

std::optional<Interval> spanOf(Int128 months, Int128 days, Int128 micros) {
    const auto m = fitted<std::int32_t>(months), d = fitted<std::int32_t>(days);
    const auto us = fitted<std::int64_t>(micros);
    return m && d && us ? std::optional(Interval{*m, *d, *us}) : std::nullopt;
}

/// Takes one from the larger unit where the smaller one has the other sign.
void agree(Int128& larger, Int128& smaller, Int128 size) {
    if (larger > 0 && smaller < 0) {
        smaller += size;
        --larger;
    } else if (larger < 0 && smaller > 0) {
        smaller -= size;
        ++larger;
    }
}

std::optional<Interval> justified(Op op, const Interval& span) {
    Int128 months = span.months, days = span.days, micros = span.micros;
    if (op != Op::JustifyDays) {
        days += micros / kMicrosPerDay;
        micros %= kMicrosPerDay;
    }
    if (op != Op::JustifyHours) {
        months += days / kDaysPerMonth;
        days %= kDaysPerMonth;
    }
    if (op == Op::JustifyDays) {
        agree(months, days, kDaysPerMonth);
    } else if (op == Op::JustifyHours) {
        agree(days, micros, kMicrosPerDay);
    } else {
        if (months > 0 && (days < 0 || (days == 0 && micros < 0))) {
            days += kDaysPerMonth;
            --months;
        } else if (months < 0 && (days > 0 || (days == 0 && micros > 0))) {
            days -= kDaysPerMonth;
            ++months;
        }
        agree(days, micros, kMicrosPerDay);
    }
    return spanOf(months, days, micros);
}

std::int64_t bitsOf(Op op, std::int64_t a, std::int64_t b) {
    constexpr std::int64_t kPlaces = 63;
    switch (op) {
        case Op::BitAnd: return a & b;
        case Op::BitOr: return a | b;
        case Op::BitExclusiveOr: return a ^ b;
        case Op::BitNot: return ~a;
        // As the processors do it: by what is left of the distance modulo 64.
        case Op::ShiftLeft: return static_cast<std::int64_t>(static_cast<std::uint64_t>(a) << (b & kPlaces));
        default: return a >> (b & kPlaces);
    }
}

/// The zone that a text names; asked once for a run of the same.
class ZoneOfText {
  public:
    const TimeZone* get(std::string_view name) {
        if (!isRead_ || name != name_) {
            name_ = name;
            zone_ = name.empty() ? nullptr : TimeZone::named(name);
            isRead_ = true;
        }
        return zone_;
    }

  private:
    std::string name_;
    const TimeZone* zone_ = nullptr;
    bool isRead_ = false;
};

}  // namespace

void runMakeInterval(Operands in, std::size_t n, Vector& out) {
    joinStates(in, n, out);
    Interval* result = out.makeIntervals();
    for (std::size_t i = 0; i < n; ++i) {
        result[i] = {};
        if (out.state(i) != CellState::Filled) continue;
        const auto whole = [&](std::size_t k) { return Int128{in[k]->integers[in[k]->at(i)]}; };
        constexpr Int128 kSecond = 1'000'000, kMinute = 60 * kSecond, kHour = 60 * kMinute;
        const double seconds = std::rint(in[6]->reals[in[6]->at(i)] * 1e6);
        constexpr double kMost = 9e18;
        const bool fits = std::abs(seconds) < kMost;
        const auto span = fits ? spanOf(whole(0) * 12 + whole(1), whole(2) * 7 + whole(3),
                                        whole(4) * kHour + whole(5) * kMinute + static_cast<std::int64_t>(seconds))
                               : std::nullopt;
        if (span)
            result[i] = *span;
        else
            setState(out, n, i, CellState::TooLarge);
    }
}

void runJustify(Op op, const Vector& in, std::size_t n, Vector& out) {
    joinStates(std::array{&in}, n, out);
    Interval* result = out.makeIntervals();
    for (std::size_t i = 0; i < n; ++i) {
        result[i] = {};
        if (out.state(i) != CellState::Filled) continue;
        if (const auto span = justified(op, in.intervals[in.at(i)]))
            result[i] = *span;
        else
            setState(out, n, i, CellState::TooLarge);
    }
}

void runEpochToInstant(const Vector& in, std::size_t n, Vector& out) {
    joinStates(std::array{&in}, n, out);
    std::int64_t* result = out.makeIntegers();
    static const double kFirst = static_cast<double>(*daysFromCivil({1, 1, 1})) * 86400.0;
    static const double kEnd = static_cast<double>(*daysFromCivil({9999, 12, 31}) + 1) * 86400.0;
    for (std::size_t i = 0; i < n; ++i) {
        result[i] = 0;
        if (out.state(i) != CellState::Filled) continue;
        const double seconds = in.reals[in.at(i)];
        if (seconds >= kFirst && seconds < kEnd)
            result[i] = static_cast<std::int64_t>(std::rint(seconds * 1e6));
        else
            setState(out, n, i, CellState::TooLarge);
    }
}

void runAtZone(Operands in, std::size_t n, Vector& out) {
    joinStates(in, n, out);
    std::int64_t* result = out.makeIntegers();
    const Vector &moment = *in[0], &where = *in[1];
    const bool toInstant = moment.kind == RuleKind::Timestamp;
    ZoneOfText zones;
    for (std::size_t i = 0; i < n; ++i) {
        result[i] = 0;
        if (out.state(i) != CellState::Filled) continue;
        const std::int64_t micros = moment.integers[moment.at(i)];
        if (where.kind == RuleKind::Interval) {
            const Interval ahead = where.intervals[where.at(i)];
            if (ahead.months != 0 || ahead.days != 0 || ahead.micros > kMicrosPerDay || ahead.micros < -kMicrosPerDay) {
                setState(out, n, i, CellState::NotDefined);
                continue;
            }
            result[i] = toInstant ? micros - ahead.micros : micros + ahead.micros;
            continue;
        }
        const TimeZone* zone = zones.get(where.texts[where.at(i)]);
        if (zone)
            result[i] = toInstant ? zone->toInstant(micros) : zone->toLocal(micros);
        else
            setState(out, n, i, CellState::NotConvertible);
    }
}

void runBits(Op op, Operands in, std::size_t n, Vector& out) {
    joinStates(in, n, out);
    std::int64_t* __restrict result = out.makeIntegers();
    const Vector &a = *in[0], &b = *in[in.size() - 1];
    zip(n, a.integers, a.constant, b.integers, b.constant,
        [op, result](std::size_t i, std::int64_t x, std::int64_t y) { result[i] = bitsOf(op, x, y); });
}

}  // namespace jollyrow
