// SPDX-License-Identifier: MIT
// Idea: mantissas are 128-bit integers and every step asks the compiler's overflow checks; a quotient is one division
// where the shifted dividend fits, else schoolbook, digit by digit. The scale of a quotient is found as PostgreSQL
// finds it, from the base-10000 groups of both numbers. Example: 10.00 / 4 -> groups 10 and 4, weight 0, scale 16 - 0 =
// 16 -> 2.5000000000000000. Covered by tests/rules/postgres_oracle_test.cpp.
#include "core/columns/wide_decimal.h"
#include "core/base/require.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <cstdlib>
#include <limits>

namespace jollyrow {
namespace {

constexpr std::array<Int128, 39> kPowers = [] {
    std::array<Int128, 39> powers{};
    Int128 p = 1;
    for (std::size_t i = 0; i < powers.size(); ++i) {
        powers[i] = p;
        if (i + 1 < powers.size()) p *= 10;
    }
    return powers;
}();
const Int128 kMost = kPowers[38] - 1;

std::optional<WideDecimal> checked(Int128 mantissa, int scale) {
    if (mantissa > kMost || mantissa < -kMost) return std::nullopt;
    return WideDecimal{mantissa, scale};
}

std::optional<Int128> shiftedUp(Int128 mantissa, int digits) {
    if (mantissa == 0) return mantissa;
    Int128 out;
    if (digits > 38 || __builtin_mul_overflow(mantissa, widePower(digits), &out)) return std::nullopt;
    return out;
}

/// Division, half away from zero. Requires: by > 0.
Int128 roundedQuotient(Int128 value, Int128 by) {
    const Int128 quotient = value / by, rest = value % by;
    const Int128 away = by - (rest < 0 ? -rest : rest);
    if (rest == 0 || away > (rest < 0 ? -rest : rest)) return quotient;
    return value < 0 ? quotient - 1 : quotient + 1;
}

int digitCount(Int128 value) {
    if (value < 0) value = -value;
    int digits = 0;
    while (digits < 38 && value >= kPowers[static_cast<std::size_t>(digits)]) ++digits;
    return digits;
}

int floorDivide(int a, int b) { return a >= 0 ? a / b : -((-a + b - 1) / b); }

/// Exponent and value of the first base-10000 group that is not zero; zeros for zero.
struct LeadingGroup {
    int weight = 0;
    int digit = 0;
};
LeadingGroup leadingGroup(const WideDecimal& v) {
    if (v.mantissa == 0) return {};
    const int exponent = digitCount(v.mantissa) - v.scale - 1;
    LeadingGroup group{floorDivide(exponent, 4), 0};
    const int shift = v.scale + 4 * group.weight;
    const Int128 magnitude = v.mantissa < 0 ? -v.mantissa : v.mantissa;
    group.digit =
        static_cast<int>(shift >= 0 ? (shift > 38 ? 0 : magnitude / widePower(shift)) : magnitude * widePower(-shift));
    return group;
}

/// A product of two mantissas, whole: four limbs of 64 bits, the lowest first.
using Limbs = std::array<std::uint64_t, 4>;

Limbs wholeProduct(UnsignedInt128 a, UnsignedInt128 b) {
    const std::array<std::uint64_t, 2> x = {static_cast<std::uint64_t>(a), static_cast<std::uint64_t>(a >> 64)};
    const std::array<std::uint64_t, 2> y = {static_cast<std::uint64_t>(b), static_cast<std::uint64_t>(b >> 64)};
    Limbs out{};
    for (std::size_t i = 0; i < 2; ++i) {
        UnsignedInt128 carry = 0;
        for (std::size_t k = 0; k < 2; ++k) {
            carry += UnsignedInt128{x[i]} * y[k] + out[i + k];
            out[i + k] = static_cast<std::uint64_t>(carry);
            carry >>= 64;
        }
        out[i + 2] = static_cast<std::uint64_t>(carry);
    }
    return out;
}

/// Leaves out the last digit, which it returns.
int dropDigit(Limbs& value) {
    constexpr std::uint64_t kTen = 10;
    UnsignedInt128 rest = 0;
    for (std::size_t i = value.size(); i-- > 0;) {
        const UnsignedInt128 part = (rest << 64) | value[i];
        value[i] = static_cast<std::uint64_t>(part / kTen);
        rest = part % kTen;
    }
    return static_cast<int>(rest);
}

/// The product with as many of its decimals as 38 digits hold, half away from zero; nullopt when its whole digits are
/// more.
std::optional<WideDecimal> roundedProduct(const WideDecimal& a, const WideDecimal& b) {
    const auto magnitude = [](Int128 v) {
        return v < 0 ? -static_cast<UnsignedInt128>(v) : static_cast<UnsignedInt128>(v);
    };
    Limbs product = wholeProduct(magnitude(a.mantissa), magnitude(b.mantissa));
    int scale = a.scale + b.scale, dropped = 0;
    const auto fits = [&] {
        return scale <= WideDecimal::kMaxScale && product[2] == 0 && product[3] == 0 &&
               ((static_cast<UnsignedInt128>(product[1]) << 64) | product[0]) <= static_cast<UnsignedInt128>(kMost);
    };
    for (; !fits(); --scale) {
        if (scale == 0) return std::nullopt;
        dropped = dropDigit(product);
    }
    Int128 mantissa = static_cast<Int128>((static_cast<UnsignedInt128>(product[1]) << 64) | product[0]);
    if (dropped >= 5) ++mantissa;
    if (mantissa > kMost) {  // 999.99 became 1000.0
        if (scale == 0) return std::nullopt;
        mantissa /= 10;
        --scale;
    }
    return WideDecimal{(a.mantissa < 0) != (b.mantissa < 0) ? -mantissa : mantissa, scale};
}

}  // namespace

Int128 widePower(int exponent) { return kPowers[static_cast<std::size_t>(exponent)]; }

std::strong_ordering operator<=>(const WideDecimal& a, const WideDecimal& b) {
    const auto order = [](Int128 left, Int128 right) {
        return left < right   ? std::strong_ordering::less
               : left > right ? std::strong_ordering::greater
                              : std::strong_ordering::equal;
    };
    if (a.scale == b.scale) return order(a.mantissa, b.mantissa);
    const Int128 wholeA = a.mantissa / widePower(a.scale), wholeB = b.mantissa / widePower(b.scale);
    if (wholeA != wholeB) return order(wholeA, wholeB);
    const int scale = std::max(a.scale, b.scale);
    return order(a.mantissa % widePower(a.scale) * widePower(scale - a.scale),
                 b.mantissa % widePower(b.scale) * widePower(scale - b.scale));
}

std::optional<WideDecimal> added(const WideDecimal& a, const WideDecimal& b) {
    const int scale = std::max(a.scale, b.scale);
    const auto left = shiftedUp(a.mantissa, scale - a.scale), right = shiftedUp(b.mantissa, scale - b.scale);
    Int128 sum;
    if (!left || !right || __builtin_add_overflow(*left, *right, &sum)) return std::nullopt;
    return checked(sum, scale);
}

std::optional<WideDecimal> subtracted(const WideDecimal& a, const WideDecimal& b) {
    return added(a, {-b.mantissa, b.scale});
}

std::optional<WideDecimal> multiplied(const WideDecimal& a, const WideDecimal& b) {
    Int128 product;
    if (a.scale + b.scale <= WideDecimal::kMaxScale && !__builtin_mul_overflow(a.mantissa, b.mantissa, &product))
        if (const auto fits = checked(product, a.scale + b.scale)) return fits;
    return roundedProduct(a, b);
}

std::optional<WideDecimal> divided(const WideDecimal& a, const WideDecimal& b) {
    JOLLYROW_REQUIRE(b.mantissa != 0);
    constexpr int kLeastSignificant = 16, kGroupDigits = 4;
    const LeadingGroup top = leadingGroup(a), bottom = leadingGroup(b);
    int weight = top.weight - bottom.weight;
    if (top.digit <= bottom.digit) --weight;
    const int scale =
        std::min(std::max({kLeastSignificant - weight * kGroupDigits, a.scale, b.scale, 0}), WideDecimal::kMaxScale);
    Int128 dividend = a.mantissa, divisor = b.mantissa;
    if (divisor < 0) {
        divisor = -divisor;
        dividend = -dividend;
    }
    const int shift = scale + b.scale - a.scale;
    if (const auto shifted = shiftedUp(dividend, shift)) return checked(roundedQuotient(*shifted, divisor), scale);
    const bool negative = dividend < 0;
    if (negative) dividend = -dividend;
    Int128 quotient = dividend / divisor, rest = dividend % divisor;
    if (divisor > kMost / 10) return std::nullopt;
    for (int i = 0; i < shift; ++i) {
        if (quotient > kMost / 10) return std::nullopt;
        rest *= 10;
        quotient = quotient * 10 + rest / divisor;
        rest %= divisor;
    }
    if (rest >= divisor - rest) ++quotient;
    return checked(negative ? -quotient : quotient, scale);
}

std::optional<WideDecimal> remainder(const WideDecimal& a, const WideDecimal& b) {
    JOLLYROW_REQUIRE(b.mantissa != 0);
    const int scale = std::max(a.scale, b.scale);
    const auto left = shiftedUp(a.mantissa, scale - a.scale), right = shiftedUp(b.mantissa, scale - b.scale);
    if (!left || !right) return std::nullopt;
    return WideDecimal{*left % *right, scale};
}

std::optional<WideDecimal> rounded(const WideDecimal& a, int scale) {
    scale = std::clamp(scale, -38, WideDecimal::kMaxScale);
    if (scale >= a.scale) {
        const auto up = shiftedUp(a.mantissa, scale - a.scale);
        return up ? checked(*up, scale) : std::nullopt;
    }
    const int drop = a.scale - scale;
    if (drop > 38) return WideDecimal{0, std::max(scale, 0)};
    const Int128 kept = roundedQuotient(a.mantissa, widePower(drop));
    if (scale >= 0) return checked(kept, scale);
    const auto up = shiftedUp(kept, -scale);
    return up ? checked(*up, 0) : std::nullopt;
}

WideDecimal truncated(const WideDecimal& a, int scale) {
    scale = std::clamp(scale, -38, WideDecimal::kMaxScale);
    if (scale >= a.scale) return rounded(a, scale).value_or(a);
    const int drop = a.scale - scale;
    if (drop > 38) return {0, std::max(scale, 0)};
    const Int128 kept = a.mantissa / widePower(drop);
    return scale >= 0 ? WideDecimal{kept, scale} : WideDecimal{kept * widePower(-scale), 0};
}

WideDecimal floorOf(const WideDecimal& a) {
    const Int128 power = widePower(a.scale);
    const Int128 whole = a.mantissa / power;
    return {a.mantissa % power < 0 ? whole - 1 : whole, 0};
}

WideDecimal ceilingOf(const WideDecimal& a) {
    const Int128 power = widePower(a.scale);
    const Int128 whole = a.mantissa / power;
    return {a.mantissa % power > 0 ? whole + 1 : whole, 0};
}

std::string toString(const WideDecimal& value) { return toString(value.mantissa, value.scale); }

std::optional<WideDecimal> parseWideDecimal(std::string_view text) {
    while (!text.empty() && (text.front() == ' ' || (text.front() >= '\t' && text.front() <= '\r')))
        text.remove_prefix(1);
    while (!text.empty() && (text.back() == ' ' || (text.back() >= '\t' && text.back() <= '\r'))) text.remove_suffix(1);
    std::size_t i = 0;
    bool negative = false, seenDigit = false, seenPoint = false;
    if (i < text.size() && (text[i] == '-' || text[i] == '+')) negative = text[i++] == '-';
    WideDecimal value;
    for (; i < text.size(); ++i) {
        const char c = text[i];
        if (c == '.' && !seenPoint) {
            seenPoint = true;
        } else if (c >= '0' && c <= '9') {
            seenDigit = true;
            if (value.mantissa > (kMost - (c - '0')) / 10) return std::nullopt;
            value.mantissa = value.mantissa * 10 + (c - '0');
            if (seenPoint && ++value.scale > WideDecimal::kMaxScale) return std::nullopt;
        } else {
            break;
        }
    }
    if (!seenDigit) return std::nullopt;
    if (negative) value.mantissa = -value.mantissa;
    if (i == text.size()) return value;
    if (text[i] != 'e' && text[i] != 'E') return std::nullopt;
    std::string_view tail = text.substr(i + 1);
    if (!tail.empty() && tail[0] == '+') tail.remove_prefix(1);
    int exponent = 0;
    const auto [end, failure] = std::from_chars(tail.data(), tail.data() + tail.size(), exponent);
    if (failure != std::errc{} || end != tail.data() + tail.size() || exponent > 1000 || exponent < -1000)
        return std::nullopt;
    const int scale = value.scale - exponent;
    if (scale > WideDecimal::kMaxScale) return std::nullopt;
    if (scale >= 0) return WideDecimal{value.mantissa, scale};
    const auto up = shiftedUp(value.mantissa, -scale);
    return up ? checked(*up, 0) : std::nullopt;
}

double toReal(const WideDecimal& value) {
    // Both exact in a double: one rounding, so the nearest.
    constexpr Int128 kExact = static_cast<Int128>(1) << 53;
    if (value.mantissa <= kExact && value.mantissa >= -kExact && value.scale <= 22)
        return static_cast<double>(static_cast<std::int64_t>(value.mantissa)) /
               static_cast<double>(widePower(value.scale));
    return std::strtod(toString(value).c_str(), nullptr);
}

std::optional<WideDecimal> wideFromReal(double value) {
    if (!std::isfinite(value)) return std::nullopt;
    return parseWideDecimal(fmt::format("{:.15g}", value));
}

std::optional<WideDecimal> shortestFromReal(double value) {
    if (!std::isfinite(value)) return std::nullopt;
    std::array<char, 64> buffer{};
    const auto end =
        std::to_chars(buffer.data(), buffer.data() + buffer.size(), value, std::chars_format::scientific).ptr;
    const auto read = parseWideDecimal({buffer.data(), static_cast<std::size_t>(end - buffer.data())});
    return read ? std::optional(unpadded(*read)) : std::nullopt;
}

std::optional<WideDecimal> decimalFromReal(double value, int scale) {
    const auto shortest = shortestFromReal(value);
    if (const auto fitted = shortest ? rescaledExactly(*shortest, scale) : std::nullopt) return fitted;
    // Only noise may be rounded off: the digits behind the fifteenth.
    const auto plain = wideFromReal(value);
    return plain ? rescaledExactly(unpadded(*plain), scale) : std::nullopt;
}

std::optional<WideDecimal> rescaledExactly(const WideDecimal& value, int scale) {
    if (scale < 0 || scale > WideDecimal::kMaxScale) return std::nullopt;
    if (scale >= value.scale) {
        const auto up = shiftedUp(value.mantissa, scale - value.scale);
        return up ? checked(*up, scale) : std::nullopt;
    }
    const Int128 factor = widePower(value.scale - scale);
    if (value.mantissa % factor != 0) return std::nullopt;
    return WideDecimal{value.mantissa / factor, scale};
}

WideDecimal unpadded(WideDecimal value) {
    while (value.scale > 0 && value.mantissa % 10 == 0) {
        value.mantissa /= 10;
        --value.scale;
    }
    return value;
}

std::optional<std::int64_t> toInteger(const WideDecimal& value) {
    const auto whole = rounded(value, 0);
    if (!whole || whole->mantissa > std::numeric_limits<std::int64_t>::max() ||
        whole->mantissa < std::numeric_limits<std::int64_t>::min())
        return std::nullopt;
    return static_cast<std::int64_t>(whole->mantissa);
}

std::optional<Decimal> narrowed(const WideDecimal& value) {
    WideDecimal v = value;
    const auto fits = [&] {
        return v.scale <= Decimal::kMaxScale && v.mantissa <= std::numeric_limits<std::int64_t>::max() &&
               v.mantissa >= std::numeric_limits<std::int64_t>::min();
    };
    while (!fits()) {
        if (v.scale == 0 || v.mantissa % 10 != 0) return std::nullopt;
        v.mantissa /= 10;
        --v.scale;
    }
    return Decimal{static_cast<std::int64_t>(v.mantissa), v.scale};
}

}  // namespace jollyrow
