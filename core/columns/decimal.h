// SPDX-License-Identifier: MIT
#pragma once
// Exact decimals: a scaled 64-bit integer with checked arithmetic. Money never passes through a binary float.
// Rounding, where it is asked for, is half away from zero.

#include <compare>
#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <string_view>

namespace jollyrow {

/// mantissa / 10^scale. Immutable value; 0 <= scale <= kMaxScale.
struct Decimal {
    static constexpr int kMaxScale = 18;
    std::int64_t mantissa = 0;
    std::int32_t scale = 0;

    /// Numeric equality: 1.5 == 1.50.
    friend bool operator==(const Decimal& a, const Decimal& b) { return (a <=> b) == 0; }
    friend std::strong_ordering operator<=>(const Decimal& a, const Decimal& b);
};

/// Reads "-12.340"; digits, at most one point, an optional sign and nothing else. nullopt when it is not that, or past
/// 64 bits.
std::optional<Decimal> parseDecimal(std::string_view text);
/// "12.340": all digits of the scale.
std::string toString(Decimal value);
/// Exact only: nullopt when digits other than zero would be lost or 64 bits are passed.
std::optional<Decimal> rescaledExactly(Decimal value, int scale);
/// Rounds half away from zero; nullopt when 64 bits are passed.
std::optional<Decimal> rescaled(Decimal value, int scale);
/// nullopt on overflow; the result has the larger scale (sum) or the sum of scales (product).
std::optional<Decimal> added(Decimal a, Decimal b);
std::optional<Decimal> multiplied(Decimal a, Decimal b);
/// The exact sum of mantissas of one scale: 2^63 values cannot overflow it.
__extension__ typedef __int128 Int128;
__extension__ typedef unsigned __int128 UnsignedInt128;
Int128 sumOf(std::span<const std::int64_t> mantissas);
/// Text of a 128-bit mantissa at a scale.
std::string toString(Int128 mantissa, int scale);
/// 10^exponent. Requires: 0 <= exponent <= 18.
std::int64_t powerOfTen(int exponent);

}  // namespace jollyrow
