// SPDX-License-Identifier: MIT
#pragma once
// WideDecimal: exact decimals of up to 38 digits, each with a scale of its own, for results of rules that do not fit
// the 64 bits of a column. Scales follow PostgreSQL's numeric: sums have the larger one, products the sum of both,
// quotients at least 16 significant digits. Rounding is half away from zero.

#include <compare>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

#include "core/columns/decimal.h"

namespace jollyrow {

struct WideDecimal {
    static constexpr int kMaxScale = 38;
    Int128 mantissa = 0;
    std::int32_t scale = 0;

    WideDecimal() = default;
    WideDecimal(Int128 m, std::int32_t s) : mantissa(m), scale(s) {}
    /// Numeric: 1.5 == 1.50.
    friend bool operator==(const WideDecimal& a, const WideDecimal& b) { return (a <=> b) == 0; }
    friend std::strong_ordering operator<=>(const WideDecimal& a, const WideDecimal& b);
};

// All: nullopt when the result has more than 38 digits.
std::optional<WideDecimal> added(const WideDecimal& a, const WideDecimal& b);
std::optional<WideDecimal> subtracted(const WideDecimal& a, const WideDecimal& b);
std::optional<WideDecimal> multiplied(const WideDecimal& a, const WideDecimal& b);
/// Requires: b is not zero.
std::optional<WideDecimal> divided(const WideDecimal& a, const WideDecimal& b);
/// What is left of a / b truncated; has a's sign. Requires: b is not zero.
std::optional<WideDecimal> remainder(const WideDecimal& a, const WideDecimal& b);
/// To `scale` decimals; negative ones round tens, hundreds…
std::optional<WideDecimal> rounded(const WideDecimal& a, int scale);
WideDecimal truncated(const WideDecimal& a, int scale);
/// Largest whole number not above, smallest not below.
WideDecimal floorOf(const WideDecimal& a);
WideDecimal ceilingOf(const WideDecimal& a);

std::string toString(const WideDecimal& value);
/// Digits, a point, an exponent: "-12.5e3"; blanks around are allowed.
std::optional<WideDecimal> parseWideDecimal(std::string_view text);
/// Nearest double.
double toReal(const WideDecimal& value);
/// As PostgreSQL casts: 15 significant digits.
std::optional<WideDecimal> wideFromReal(double value);
/// The exact number with the shortest text that reads back as this double: what was written before it became one.
std::optional<WideDecimal> shortestFromReal(double value);
/// The decimal of at most `scale` decimals that a stored double is: its shortest text, or the one it stands for within
/// its own rounding noise, the 15 digits that a double keeps of a decimal (IEEE 754 binary64, DBL_DIG). Has `scale`.
std::optional<WideDecimal> decimalFromReal(double value, int scale);
/// Exact only: nullopt when digits other than zero would be lost or 38 digits are passed.
std::optional<WideDecimal> rescaledExactly(const WideDecimal& value, int scale);
/// The same number without zeros at the end of its decimals.
WideDecimal unpadded(WideDecimal value);
/// Half away from zero; nullopt past 64 bits.
std::optional<std::int64_t> toInteger(const WideDecimal& value);
/// The same value in 64 bits; nullopt when it does not fit or has more than 18 decimals.
std::optional<Decimal> narrowed(const WideDecimal& value);
Int128 widePower(int exponent);

}  // namespace jollyrow
