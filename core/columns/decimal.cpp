// SPDX-License-Identifier: MIT
// Idea: all work on mantissas in 128 bits, then a check that the result fits 64. Sums split each mantissa into its
// high and low half and add those in 64 bits per block of 64k, which the compiler vectorises; blocks join in 128 bits.
// Example: 1.5 + 2.25 -> 150 + 225 at scale 2 = 3.75. Covered by tests/columns/values_test.cpp.
#include "core/columns/decimal.h"
#include "core/base/require.h"

#include <array>
#include <charconv>
#include <cmath>
#include <limits>

namespace jollyrow {
namespace {

constexpr std::array<std::int64_t, 19> kPowers = [] {
    std::array<std::int64_t, 19> powers{};
    std::int64_t p = 1;
    for (std::size_t i = 0; i < powers.size(); ++i) {
        powers[i] = p;
        if (i + 1 < powers.size()) p *= 10;
    }
    return powers;
}();

std::optional<std::int64_t> narrowed(Int128 wide) {
    if (wide > std::numeric_limits<std::int64_t>::max() || wide < std::numeric_limits<std::int64_t>::min())
        return std::nullopt;
    return static_cast<std::int64_t>(wide);
}

}  // namespace

std::int64_t powerOfTen(int exponent) {
    JOLLYROW_REQUIRE(exponent >= 0 && exponent <= 18);
    return kPowers[static_cast<std::size_t>(exponent)];
}

std::strong_ordering operator<=>(const Decimal& a, const Decimal& b) {
    const int scale = a.scale > b.scale ? a.scale : b.scale;
    const Int128 left = static_cast<Int128>(a.mantissa) * powerOfTen(scale - a.scale);
    const Int128 right = static_cast<Int128>(b.mantissa) * powerOfTen(scale - b.scale);
    return left < right   ? std::strong_ordering::less
           : left > right ? std::strong_ordering::greater
                          : std::strong_ordering::equal;
}

std::optional<Decimal> parseDecimal(std::string_view text) {
    std::size_t i = 0;
    bool negative = false;
    if (i < text.size() && (text[i] == '-' || text[i] == '+')) negative = text[i++] == '-';
    Int128 mantissa = 0;
    int scale = 0;
    bool seenDigit = false, seenPoint = false;
    for (; i < text.size(); ++i) {
        const char c = text[i];
        if (c == '.' && !seenPoint) {
            seenPoint = true;
        } else if (c >= '0' && c <= '9') {
            seenDigit = true;
            if (seenPoint && ++scale > Decimal::kMaxScale) return std::nullopt;
            mantissa = mantissa * 10 + (c - '0');
            if (mantissa > (static_cast<Int128>(1) << 64)) return std::nullopt;
        } else {
            return std::nullopt;
        }
    }
    if (!seenDigit) return std::nullopt;
    const auto narrow = narrowed(negative ? -mantissa : mantissa);
    if (!narrow) return std::nullopt;
    return Decimal{*narrow, scale};
}

std::string toString(Int128 mantissa, int scale) {
    const bool negative = mantissa < 0;
    UnsignedInt128 rest = negative ? -static_cast<UnsignedInt128>(mantissa) : static_cast<UnsignedInt128>(mantissa);
    std::array<char, 48> buffer{};
    char* end = buffer.data() + buffer.size();
    char* p = end;
    int digits = 0;
    while (rest != 0 || digits <= scale) {
        if (digits == scale && scale > 0) *--p = '.';
        *--p = static_cast<char>('0' + static_cast<int>(rest % 10));
        rest /= 10;
        ++digits;
    }
    if (negative) *--p = '-';
    return std::string(p, end);
}

std::string toString(Decimal value) { return toString(static_cast<Int128>(value.mantissa), value.scale); }

std::optional<Decimal> rescaledExactly(Decimal value, int scale) {
    if (scale < 0 || scale > Decimal::kMaxScale) return std::nullopt;
    if (scale >= value.scale) {
        const auto narrow = narrowed(static_cast<Int128>(value.mantissa) * powerOfTen(scale - value.scale));
        return narrow ? std::optional(Decimal{*narrow, scale}) : std::nullopt;
    }
    const std::int64_t factor = powerOfTen(value.scale - scale);
    if (value.mantissa % factor != 0) return std::nullopt;
    return Decimal{value.mantissa / factor, scale};
}

std::optional<Decimal> rescaled(Decimal value, int scale) {
    if (scale < 0 || scale > Decimal::kMaxScale) return std::nullopt;
    if (scale >= value.scale) return rescaledExactly(value, scale);
    const std::int64_t factor = powerOfTen(value.scale - scale);
    const std::int64_t quotient = value.mantissa / factor;
    const std::int64_t rest = value.mantissa % factor;
    const std::int64_t half = factor / 2;
    if (rest >= half) return Decimal{quotient + 1, scale};
    if (-rest >= half) return Decimal{quotient - 1, scale};
    return Decimal{quotient, scale};
}

std::optional<Decimal> added(Decimal a, Decimal b) {
    const int scale = a.scale > b.scale ? a.scale : b.scale;
    const Int128 sum = static_cast<Int128>(a.mantissa) * powerOfTen(scale - a.scale) +
                       static_cast<Int128>(b.mantissa) * powerOfTen(scale - b.scale);
    const auto narrow = narrowed(sum);
    return narrow ? std::optional(Decimal{*narrow, scale}) : std::nullopt;
}

std::optional<Decimal> multiplied(Decimal a, Decimal b) {
    if (a.scale + b.scale > Decimal::kMaxScale) return std::nullopt;
    const auto narrow = narrowed(static_cast<Int128>(a.mantissa) * b.mantissa);
    return narrow ? std::optional(Decimal{*narrow, a.scale + b.scale}) : std::nullopt;
}

Int128 sumOf(std::span<const std::int64_t> mantissas) {
    constexpr std::size_t kBlock = 65536;
    Int128 total = 0;
    for (std::size_t start = 0; start < mantissas.size(); start += kBlock) {
        const auto block = mantissas.subspan(start, std::min(kBlock, mantissas.size() - start));
        std::int64_t high = 0;
        std::uint64_t low = 0;
        for (const std::int64_t m : block) {
            high += m >> 32;
            low += static_cast<std::uint64_t>(m) & 0xffffffffU;
        }
        total += static_cast<Int128>(high) * (static_cast<Int128>(1) << 32) + static_cast<Int128>(low);
    }
    return total;
}

}  // namespace jollyrow
