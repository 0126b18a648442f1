// SPDX-License-Identifier: MIT
// Idea: the functions in binary128 by series, written back with as many decimals as PostgreSQL writes.
//   ln(m * 2^e) = e ln 2 + 2 atanh((m - 1) / (m + 1)),  exp(k ln 2 + r) = 2^k (1 + r + r^2 / 2 + ...)
// The number of decimals follows PostgreSQL 15's numeric (16 significant digits, estimated as it does, and never fewer
// decimals than the arguments have). Covered by tests/rules/typed_oracle_test.cpp and postgres_oracle_test.cpp.
#include "core/columns/decimal_functions.h"

#include <algorithm>
#include <cmath>

namespace jollyrow {
namespace {

// 113 bits of mantissa: a type of its own on x86-64, `long double` on AArch64.
#ifdef __SIZEOF_FLOAT128__
__extension__ using Quad = __float128;
#else
using Quad = long double;
#endif

constexpr int kSignificant = 16;
constexpr int kExactDigits = 33;  ///< decimal digits that binary128 keeps

Quad powerOfTenQuad(int exponent) {
    Quad power = 1;
    for (Quad base = 10; exponent > 0; exponent /= 2, base *= base)
        if (exponent % 2 != 0) power *= base;
    return power;
}

Quad quadOf(const WideDecimal& a) { return static_cast<Quad>(a.mantissa) / powerOfTenQuad(a.scale); }

/// With `scale` decimals, or as many as are exact.
std::optional<WideDecimal> decimalOf(Quad value, int scale) {
    const Quad size = value < 0 ? -value : value;
    if (!(size < powerOfTenQuad(kExactDigits))) return std::nullopt;
    int before = 0;
    Quad limit = 1;
    while (limit <= size) {
        limit *= 10;
        ++before;
    }
    scale = std::clamp(scale, 0, std::min(WideDecimal::kMaxScale, kExactDigits - before));
    const auto whole = static_cast<Int128>(size * powerOfTenQuad(scale) + static_cast<Quad>(0.5));
    return WideDecimal{value < 0 ? -whole : whole, scale};
}

/// 2 atanh((m - 1) / (m + 1)) = ln m. Few terms where m is near 1.
Quad lnNearOne(Quad m) {
    const Quad z = (m - 1) / (m + 1), square = z * z;
    Quad sum = 0, power = z;
    for (int k = 1; k < 120; k += 2, power *= square) {
        const Quad before = sum;
        sum += power / k;
        if (sum == before) break;
    }
    return 2 * sum;
}

Quad lnTwo() {
    static const Quad kLnTwo = lnNearOne(static_cast<Quad>(1.5)) + lnNearOne(static_cast<Quad>(4) / 3);
    return kLnTwo;
}

Quad lnOf(Quad x) {
    int exponent = 0;
    (void)std::frexp(static_cast<double>(x), &exponent);
    Quad m = x;
    for (int i = 0; i < exponent; ++i) m /= 2;
    for (int i = exponent; i < 0; ++i) m *= 2;
    if (m < static_cast<Quad>(0.7071)) {
        m *= 2;
        --exponent;
    }
    return exponent * lnTwo() + lnNearOne(m);
}

/// Requires: |x| < 200.
Quad expOf(Quad x) {
    const auto k = static_cast<int>(std::nearbyint(static_cast<double>(x) / std::log(2.0)));
    const Quad r = x - k * lnTwo();
    Quad sum = 1, term = 1;
    for (int n = 1; n < 60; ++n) {
        term *= r / n;
        const Quad before = sum;
        sum += term;
        if (sum == before) break;
    }
    for (int i = 0; i < k; ++i) sum *= 2;
    for (int i = k; i < 0; ++i) sum /= 2;
    return sum;
}

/// PostgreSQL's estimate of the decimal weight of ln(a): the place of its first digit before or behind the point.
int lnWeight(const WideDecimal& a) {
    const Quad x = quadOf(a);
    if (x >= static_cast<Quad>(0.9L) && x <= static_cast<Quad>(1.1L)) {
        const Quad off = x > 1 ? x - 1 : 1 - x;
        if (off == 0) return 0;
        return static_cast<int>(std::floor(std::log10(static_cast<double>(off)) + 1e-12));
    }
    return static_cast<int>(std::log10(std::fabs(std::log(toReal(a)))));
}

int decimalsFor(int weight, int leastA, int leastB = 0) { return std::max({kSignificant - weight, leastA, leastB, 0}); }

/// By multiplication alone; nullopt when the result has more than 38 digits or is less than 1e-38.
std::optional<WideDecimal> exactPower(WideDecimal base, std::int64_t exponent) {
    WideDecimal result{1, 0};
    for (; exponent > 0; exponent /= 2) {
        const auto times = [&](const WideDecimal& a, const WideDecimal& b) -> std::optional<WideDecimal> {
            const auto product = multiplied(a, b);
            return product && product->scale == a.scale + b.scale ? product : std::nullopt;  // else it was rounded
        };
        if (exponent % 2 != 0) {
            const auto next = times(result, base);
            if (!next) return std::nullopt;
            result = *next;
        }
        if (exponent == 1) break;
        const auto square = times(base, base);
        if (!square) return std::nullopt;
        base = *square;
    }
    return result;
}

std::optional<std::int64_t> wholeOf(const WideDecimal& a) {
    const auto whole = rescaledExactly(a, 0);
    return whole && whole->mantissa < (Int128{1} << 31) && whole->mantissa >= -(Int128{1} << 31)
               ? std::optional(static_cast<std::int64_t>(whole->mantissa))
               : std::nullopt;
}

std::optional<WideDecimal> wholePower(const WideDecimal& base, std::int64_t exponent) {
    const int scale = std::max(kSignificant, base.scale);
    if (base.mantissa == 0) return decimalOf(exponent == 0 ? 1 : 0, scale);
    if (exponent >= 0)
        if (const auto exact = exactPower(unpadded(base), exponent)) {
            for (int decimals = std::min(scale, WideDecimal::kMaxScale); decimals >= 0; --decimals)
                if (const auto fits = rounded(*exact, decimals); fits) {
                    if (exact->scale >= decimals) return fits;
                    if (const auto padded = rescaledExactly(*exact, decimals)) return padded;
                }
        }
    Quad factor = quadOf(base), result = 1;
    const Quad limit = powerOfTenQuad(4000);
    for (std::int64_t left = std::abs(exponent); left > 0; left /= 2) {
        if (left % 2 != 0) result *= factor;
        if (left > 1) factor *= factor;
        if (factor > limit || result > limit || result < -limit)
            return exponent < 0 ? decimalOf(0, scale) : std::nullopt;
    }
    if (result == 0) return exponent < 0 ? std::nullopt : decimalOf(0, scale);
    return decimalOf(exponent < 0 ? 1 / result : result, scale);
}

/// exponent * ln(base) as PostgreSQL estimates it: both rounded to some eight digits.
double estimatedLn(const WideDecimal& base, const WideDecimal& exponent) {
    constexpr int kDigits = 8;
    const WideDecimal size{base.mantissa < 0 ? -base.mantissa : base.mantissa, base.scale};
    const double unit = std::pow(10.0, std::max(kDigits - lnWeight(size), 0));
    constexpr double kNoise = 1e-6;  // a half is one, though its double may be a bit less
    const auto roundedTo = [&](double value) { return std::round(value * unit + std::copysign(kNoise, value)) / unit; };
    return roundedTo(roundedTo(static_cast<double>(lnOf(quadOf(size)))) * toReal(exponent));
}

}  // namespace

static Quad rootOf(const WideDecimal& a) {
    const Quad x = quadOf(a);
    Quad root = static_cast<Quad>(std::sqrt(toReal(a)));
    for (int i = 0; i < 3 && root != 0; ++i) root = (root + x / root) / 2;
    return root;
}

std::optional<WideDecimal> varianceOf(std::int64_t count, const WideDecimal& sum, const WideDecimal& squares,
                                      bool isPopulation, bool isRoot) {
    const WideDecimal n{count, 0};
    const auto scaled = multiplied(n, squares), square = multiplied(sum, sum);
    const auto above = scaled && square ? subtracted(*scaled, *square) : std::nullopt;
    const auto below = multiplied(n, {isPopulation ? count : count - 1, 0});
    if (!above || !below) return std::nullopt;
    if (above->mantissa <= 0) return WideDecimal{0, 0};
    const auto variance = divided(*above, *below);
    return variance && isRoot ? decimalOf(rootOf(*variance), variance->scale) : variance;
}

std::optional<WideDecimal> squareRoot(const WideDecimal& a) {
    const Quad x = quadOf(a);
    if (x == 0) return decimalOf(0, std::max(kSignificant - 1, a.scale));
    const Quad root = rootOf(a);
    // PostgreSQL counts in groups of four digits.
    int group = 0;
    Quad above = 10000, below = 1;
    while (above <= x) {
        above *= 10000;
        ++group;
    }
    while (below > x) {
        below /= 10000;
        --group;
    }
    const int twice = (group + 1) * 4;
    return decimalOf(root, decimalsFor(twice / 2 - 1, a.scale));
}

std::optional<WideDecimal> exponential(const WideDecimal& a) {
    const double weight = std::clamp(toReal(a) * 0.434294481903252, -2000.0, 2000.0);
    if (weight > kExactDigits + 1) return std::nullopt;
    const int scale = decimalsFor(static_cast<int>(weight), a.scale);
    if (weight < -WideDecimal::kMaxScale - 1) return decimalOf(0, scale);
    return decimalOf(expOf(quadOf(a)), scale);
}

std::optional<WideDecimal> naturalLogarithm(const WideDecimal& a) {
    return decimalOf(lnOf(quadOf(a)), decimalsFor(lnWeight(a), a.scale));
}

std::optional<WideDecimal> logarithm(const WideDecimal& base, const WideDecimal& a) {
    return decimalOf(lnOf(quadOf(a)) / lnOf(quadOf(base)),
                     decimalsFor(lnWeight(a) - lnWeight(base), base.scale, a.scale));
}

bool isPowerDefined(const WideDecimal& base, const WideDecimal& exponent) {
    if (base.mantissa == 0) return exponent.mantissa >= 0;
    return base.mantissa > 0 || rescaledExactly(exponent, 0).has_value();
}

std::optional<WideDecimal> power(const WideDecimal& base, const WideDecimal& exponent) {
    if (const auto whole = wholeOf(exponent)) return wholePower(base, *whole);
    if (base.mantissa == 0) return decimalOf(0, kSignificant);
    const Quad ln = lnOf(quadOf({base.mantissa < 0 ? -base.mantissa : base.mantissa, base.scale})) * quadOf(exponent);
    const double weight = estimatedLn(base, exponent) * 0.434294481903252;
    if (weight > kExactDigits + 1) return std::nullopt;
    const int scale = decimalsFor(static_cast<int>(std::max(weight, -2000.0)), base.scale, exponent.scale);
    if (weight < -WideDecimal::kMaxScale - 1) return decimalOf(0, scale);
    const auto odd = rescaledExactly(exponent, 0);  // past 31 bits, where the base is nearly 1
    const Quad result = expOf(ln);
    return decimalOf(base.mantissa < 0 && odd && odd->mantissa % 2 != 0 ? -result : result, scale);
}

}  // namespace jollyrow
