// SPDX-License-Identifier: MIT
#pragma once
// Tallies: the small accumulators of term_sums.cpp, one for each kind of aggregate over plain 64-bit values, as compact
// as they can be, for there is one for every group. Sums of whole numbers and decimals are exact: low and high halves
// are added apart, so that nothing is lost in 2^31 records (LIMITS.md 5). Doubles: Neumaier's compensated sum;
// deviations by Welford's method, merged by Chan's formula. Inside of the rows room.

#include <cmath>
#include <cstdint>
#include <limits>
#include <optional>

#include "core/rules/evaluator.h"

namespace jollyrow::tally {

/// How a 64-bit value is boxed: Integer, Date, Time, Timestamp, Instant, or a Decimal of this scale.
struct Boxing {
    RuleKind kind = RuleKind::Integer;
    int scale = 0;
    RuleValue operator()(std::int64_t v) const {
        switch (kind) {
            case RuleKind::Date: return Date{static_cast<std::int32_t>(v)};
            case RuleKind::Time: return Time{v};
            case RuleKind::Timestamp: return Timestamp{v};
            case RuleKind::Instant: return Instant{v};
            case RuleKind::Decimal: return WideDecimal{v, scale};
            default: return v;
        }
    }
};

struct Count {
    using Number = std::int64_t;
    std::int64_t n = 0;
    void add(Number) { ++n; }
    void merge(const Count& from) { n += from.n; }
    bool remove(Number) { return --n >= 0; }
    EvaluatedCell cell(const Boxing&, bool) const { return {CellState::Filled, n}; }
};

/// Of whole numbers and decimals at one scale. A boxed result is never empty by itself: `n` 0 is.
struct ExactSum {
    using Number = std::int64_t;
    static constexpr Number kNothing = 0;
    std::int64_t n = 0, low = 0, high = 0;
    static ExactSum of(std::int64_t n, Number sum) { return {n, sum & 0xFFFFFFFF, sum >> 32}; }
    void add(Number v) {
        ++n;
        low += v & 0xFFFFFFFF;
        high += v >> 32;
    }
    void merge(const ExactSum& from) {
        n += from.n;
        low += from.low;
        high += from.high;
    }
    bool remove(Number v) {
        low -= v & 0xFFFFFFFF;
        high -= v >> 32;
        return --n >= 0;
    }
    EvaluatedCell cell(const Boxing& boxing, bool average) const {
        if (n == 0) return {};
        const WideDecimal sum{static_cast<Int128>(high) * (Int128{1} << 32) + low, boxing.scale};
        if (!average) return {CellState::Filled, sum};
        const auto mean = divided(sum, {n, 0});
        return mean ? EvaluatedCell{CellState::Filled, *mean} : EvaluatedCell{CellState::TooLarge, Empty{}};
    }
};

struct RealSum {
    using Number = double;
    std::int64_t n = 0;
    double sum = 0, carry = 0;
    void add(Number v) {
        ++n;
        put(v);
    }
    void merge(const RealSum& from) {
        n += from.n;
        put(from.sum);
        carry += from.carry;
    }
    bool remove(Number v) {
        put(-v);
        --n;
        return n >= 0 && std::isfinite(sum + carry);
    }
    void put(double v) {
        const double t = sum + v;
        carry += std::abs(sum) >= std::abs(v) ? (sum - t) + v : (v - t) + sum;
        sum = t;
    }
    EvaluatedCell cell(const Boxing&, bool average) const {
        if (n == 0) return {};
        const double total = sum + carry;
        if (!std::isfinite(total)) return {CellState::TooLarge, Empty{}};
        return {CellState::Filled, average ? total / static_cast<double>(n) : total};
    }
};

template <bool Population, bool Root>
struct Moments {
    using Number = double;
    std::int64_t n = 0;
    double mean = 0, deviations = 0;
    void add(Number v) {
        ++n;
        const double before = v - mean;
        mean += before / static_cast<double>(n);
        deviations += before * (v - mean);
    }
    void merge(const Moments& from) {
        if (from.n == 0) return;
        const auto a = static_cast<double>(n), b = static_cast<double>(from.n);
        const double apart = from.mean - mean;
        n += from.n;
        mean += apart * b / (a + b);
        deviations += from.deviations + apart * apart * a * b / (a + b);
    }
    bool remove(Number) { return false; }
    EvaluatedCell cell(const Boxing&, bool) const {
        if (n < (Population ? 1 : 2)) return {};
        const double variance = deviations / static_cast<double>(Population ? n : n - 1);
        if (!std::isfinite(variance)) return {CellState::TooLarge, Empty{}};
        return {CellState::Filled, Root ? std::sqrt(variance) : variance};
    }
};

/// NaN is larger than every other number, as PostgreSQL has it.
inline bool before(double a, double b) { return std::isnan(b) ? !std::isnan(a) : a < b; }
inline bool before(std::int64_t a, std::int64_t b) { return a < b; }

template <class T, bool Largest>
struct Extreme {
    using Number = T;
    static constexpr bool kLargest = Largest;
    static constexpr Number kNothing = Largest ? std::numeric_limits<T>::lowest() : std::numeric_limits<T>::max();
    std::int64_t n = 0;  ///< 0: no value. PlainPass counts values that are empty as well, where there is another.
    T value = 0;
    static Extreme of(std::int64_t n, Number value) { return {n, value}; }
    void add(Number v) {
        if (n++ == 0 || (Largest ? before(value, v) : before(v, value))) value = v;
    }
    void merge(const Extreme& from) {
        if (from.n == 0) return;
        add(from.value);
        n += from.n - 1;
    }
    /// An extreme that goes leaves no trace of the next one.
    bool remove(Number v) { return (Largest ? before(v, value) : before(value, v)) && --n >= 0; }
    EvaluatedCell cell(const Boxing& boxing, bool) const {
        if (n == 0) return {};
        if constexpr (std::is_same_v<T, double>)
            return {CellState::Filled, value};
        else
            return {CellState::Filled, boxing(value)};
    }
};

}  // namespace jollyrow::tally
