// SPDX-License-Identifier: MIT
// Arithmetic. Whole numbers and decimals of 64 bits run in plain loops that only note whether anything overflowed;
// when it did, the batch is run again value by value: whole numbers then get an error where they overflowed, decimals
// go on with 128 bits. Example: 1.5 * 2.25 at scales 1 and 2 -> 15 * 225 = 3375 at scale 3.
// Covered by tests/rules/postgres_oracle_test.cpp.
#include <array>
#include <bit>
#include <cmath>
#include <limits>

#include "core/rules/kernels.h"

namespace jollyrow {
namespace {

bool isFilled(const Vector& out, std::size_t i) { return !out.states || out.states[i] == 0; }

/// Largest magnitude of the values, rounded up to a power of two, as its number of bits.
int bitsOf(const Vector& v, std::size_t n) {
    std::uint64_t all = 0;
    for (std::size_t i = 0; i < (v.constant ? 1 : n); ++i)
        all |= static_cast<std::uint64_t>(v.integers[i] ^ (v.integers[i] >> 63));
    return static_cast<int>(std::bit_width(all));
}

/// The plain loop; false when some result does not fit 64 bits.
bool plain(Op op, const Vector& a, const Vector& b, std::size_t n, std::int64_t* out) {
    const int bitsA = bitsOf(a, n), bitsB = bitsOf(b, n);
    using I = std::int64_t;
    if (op == Op::Multiply) {
        if (bitsA + bitsB > 62) return false;  // -2^a is counted as a bits: two of them may reach 2^63
        zip(n, a.integers, a.constant, b.integers, b.constant, [out](std::size_t i, I x, I y) { out[i] = x * y; });
        return true;
    }
    if (bitsA > 62 || bitsB > 62) return false;
    if (op == Op::Add)
        zip(n, a.integers, a.constant, b.integers, b.constant, [out](std::size_t i, I x, I y) { out[i] = x + y; });
    else
        zip(n, a.integers, a.constant, b.integers, b.constant, [out](std::size_t i, I x, I y) { out[i] = x - y; });
    return true;
}

void integerDivision(Op op, const Vector& a, const Vector& b, std::size_t n, Vector& out) {
    std::int64_t* result = out.integerStore.data();
    if (b.constant && !b.states && b.integers[0] != 0 && b.integers[0] != -1) {
        const std::int64_t by = b.integers[0];
        if (op == Op::Divide)
            for (std::size_t i = 0; i < n; ++i) result[i] = a.integers[a.at(i)] / by;
        else
            for (std::size_t i = 0; i < n; ++i) result[i] = a.integers[a.at(i)] % by;
        return;
    }
    for (std::size_t i = 0; i < n; ++i) {
        result[i] = 0;
        if (!isFilled(out, i)) continue;
        const std::int64_t x = a.integers[a.at(i)], y = b.integers[b.at(i)];
        if (y == 0)
            setState(out, n, i, CellState::DivisionByZero);
        else if (y == -1 && op == Op::Modulo)
            result[i] = 0;
        else if (y == -1 && x == std::numeric_limits<std::int64_t>::min())
            setState(out, n, i, CellState::TooLarge);
        else
            result[i] = op == Op::Divide ? x / y : x % y;
    }
}

void integers(Op op, const Vector& a, const Vector& b, std::size_t n, Vector& out) {
    std::int64_t* result = out.makeIntegers();
    if (op == Op::Divide || op == Op::Modulo) return integerDivision(op, a, b, n, out);
    if (plain(op, a, b, n, result)) return;
    for (std::size_t i = 0; i < n; ++i) {
        result[i] = 0;
        if (!isFilled(out, i)) continue;
        const std::int64_t x = a.integers[a.at(i)], y = b.integers[b.at(i)];
        const bool overflow = op == Op::Add        ? __builtin_add_overflow(x, y, &result[i])
                              : op == Op::Subtract ? __builtin_sub_overflow(x, y, &result[i])
                                                   : __builtin_mul_overflow(x, y, &result[i]);
        if (overflow) setState(out, n, i, CellState::TooLarge);
    }
}

void wideDecimals(Op op, const Vector& a, const Vector& b, std::size_t n, Vector& out) {
    out.wide = true;
    WideDecimal* result = out.makeWides();
    for (std::size_t i = 0; i < n; ++i) {
        result[i] = {};
        if (!isFilled(out, i)) continue;
        const WideDecimal x = a.decimal(i), y = b.decimal(i);
        if ((op == Op::Divide || op == Op::Modulo) && y.mantissa == 0) {
            setState(out, n, i, CellState::DivisionByZero);
            continue;
        }
        const auto value = op == Op::Add        ? added(x, y)
                           : op == Op::Subtract ? subtracted(x, y)
                           : op == Op::Multiply ? multiplied(x, y)
                           : op == Op::Divide   ? divided(x, y)
                                                : remainder(x, y);
        if (value)
            result[i] = *value;
        else
            setState(out, n, i, CellState::TooLarge);
    }
}

/// Brings a narrow vector to a larger scale in `scratch`; false when it does not fit.
bool rescale(const Vector& v, int scale, std::size_t n, Vector& scratch) {
    const int up = scale - v.scale;
    if (up > 18) return false;
    const std::int64_t power = powerOfTen(up);
    if (bitsOf(v, n) + static_cast<int>(std::bit_width(static_cast<std::uint64_t>(power))) > 63) return false;
    std::int64_t* out = scratch.makeIntegers();
    for (std::size_t i = 0; i < (v.constant ? 1 : n); ++i) out[i] = v.integers[i] * power;
    scratch.constant = v.constant;
    return true;
}

void decimals(Op op, const Vector& a, const Vector& b, std::size_t n, Vector& out) {
    if (a.wide || b.wide || op == Op::Divide || op == Op::Modulo) return wideDecimals(op, a, b, n, out);
    out.wide = false;
    if (op == Op::Multiply) {
        out.scale = a.scale + b.scale;
        if (out.scale <= Decimal::kMaxScale && plain(op, a, b, n, out.makeIntegers())) return;
        return wideDecimals(op, a, b, n, out);
    }
    out.scale = std::max(a.scale, b.scale);
    if (a.scale == b.scale) {
        if (plain(op, a, b, n, out.makeIntegers())) return;
        return wideDecimals(op, a, b, n, out);
    }
    thread_local Vector scratch;
    const bool leftUp = a.scale < b.scale;
    if (rescale(leftUp ? a : b, out.scale, n, scratch) &&
        plain(op, leftUp ? scratch : a, leftUp ? b : scratch, n, out.makeIntegers()))
        return;
    wideDecimals(op, a, b, n, out);
}

void reals(Op op, const Vector& a, const Vector& b, std::size_t n, Vector& out) {
    double* result = out.makeReals();
    const auto each = [&](auto f) {
        zip(n, a.reals, a.constant, b.reals, b.constant,
            [&](std::size_t i, double x, double y) { result[i] = f(x, y); });
    };
    if (op == Op::Add)
        each([](double x, double y) { return x + y; });
    else if (op == Op::Subtract)
        each([](double x, double y) { return x - y; });
    else if (op == Op::Multiply)
        each([](double x, double y) { return x * y; });
    else
        each([](double x, double y) { return x / y; });
    bool suspicious = false;
    for (std::size_t i = 0; i < n; ++i)
        suspicious |= !(std::fabs(result[i]) <= std::numeric_limits<double>::max()) || result[i] == 0;
    if (!suspicious) return;
    for (std::size_t i = 0; i < n; ++i) {
        if (!isFilled(out, i)) continue;
        const double x = a.reals[a.at(i)], y = b.reals[b.at(i)];
        if (op == Op::Divide && y == 0 && !std::isnan(x)) {
            setState(out, n, i, CellState::DivisionByZero);
            continue;
        }
        const bool overflows = std::isinf(result[i]) && !std::isinf(x) && !std::isinf(y);
        const bool underflows =  // refused as well
            result[i] == 0 && x != 0 && (op == Op::Multiply ? y != 0 : op == Op::Divide && !std::isinf(y));
        if (overflows || underflows) setState(out, n, i, CellState::TooLarge);
    }
}

}  // namespace

void runArithmetic(Op op, const Vector& a, const Vector& b, std::size_t n, Vector& out) {
    joinStates(std::array{&a, &b}, n, out);
    switch (a.kind) {
        case RuleKind::Integer: return integers(op, a, b, n, out);
        case RuleKind::Decimal: return decimals(op, a, b, n, out);
        default: return reals(op, a, b, n, out);
    }
}

void runNegate(const Vector& in, std::size_t n, Vector& out) {
    joinStates(std::array{&in}, n, out);
    if (in.kind == RuleKind::Real) {
        double* result = out.makeReals();
        for (std::size_t i = 0; i < n; ++i) result[i] = -in.reals[i];
        return;
    }
    if (in.kind == RuleKind::Interval) {
        Interval* result = out.makeIntervals();
        for (std::size_t i = 0; i < n; ++i) {
            if (!isFilled(out, i)) continue;
            const auto value = negated(in.intervals[i]);
            if (value)
                result[i] = *value;
            else
                setState(out, n, i, CellState::TooLarge);
        }
        return;
    }
    out.wide = in.wide;
    out.scale = in.scale;
    if (in.wide) {
        WideDecimal* result = out.makeWides();
        for (std::size_t i = 0; i < n; ++i) result[i] = {-in.wides[i].mantissa, in.wides[i].scale};
        return;
    }
    std::int64_t* result = out.makeIntegers();
    for (std::size_t i = 0; i < n; ++i) {
        if (in.integers[i] != std::numeric_limits<std::int64_t>::min()) {
            result[i] = -in.integers[i];
        } else {
            result[i] = 0;
            if (isFilled(out, i)) setState(out, n, i, CellState::TooLarge);
        }
    }
}

void runRounding(Op op, Operands in, std::size_t n, Vector& out) {
    const Vector& value = *in[0];
    joinStates(in, n, out);
    if (value.kind == RuleKind::Real) {
        double* result = out.makeReals();
        for (std::size_t i = 0; i < n; ++i) {
            const double x = value.reals[i];
            result[i] = op == Op::Abs       ? std::fabs(x)
                        : op == Op::Sign    ? (x > 0   ? 1.0
                                               : x < 0 ? -1.0
                                                       : x)
                        : op == Op::Floor   ? std::floor(x)
                        : op == Op::Ceiling ? std::ceil(x)
                        : op == Op::Round   ? std::nearbyint(x)  // half to even, the default rounding
                                            : std::trunc(x);
        }
        return;
    }
    const bool whole = value.kind == RuleKind::Integer;
    std::int64_t* integersOut = whole ? out.makeIntegers() : nullptr;
    WideDecimal* wideOut = whole ? nullptr : out.makeWides();
    out.wide = !whole;
    for (std::size_t i = 0; i < n; ++i) {
        if (whole)
            integersOut[i] = 0;
        else
            wideOut[i] = {};
        if (!isFilled(out, i)) continue;
        const WideDecimal x = whole ? WideDecimal{value.integers[value.at(i)], 0} : value.decimal(i);
        const auto decimalsWanted = in.size() > 1 ? in[1]->integers[in[1]->at(i)] : 0;
        const int scale = static_cast<int>(std::clamp<std::int64_t>(decimalsWanted, -1000, 1000));
        std::optional<WideDecimal> result;
        if (op == Op::Abs)
            result = WideDecimal{x.mantissa < 0 ? -x.mantissa : x.mantissa, x.scale};
        else if (op == Op::Sign)
            result = WideDecimal{x.mantissa > 0 ? 1 : x.mantissa < 0 ? -1 : 0, 0};
        else if (op == Op::Floor)
            result = floorOf(x);
        else if (op == Op::Ceiling)
            result = ceilingOf(x);
        else
            result = op == Op::Round ? rounded(x, scale) : truncated(x, scale);
        const auto narrow = result && whole ? toInteger(*result) : std::nullopt;
        if (!result || (whole && !narrow))
            setState(out, n, i, CellState::TooLarge);
        else if (whole)
            integersOut[i] = *narrow;
        else
            wideOut[i] = *result;
    }
}

namespace {

constexpr double kRadiansPerDegree = 0.0174532925199432957692;

bool isDefined(Op op, double x, double y) {
    switch (op) {
        case Op::SquareRoot: return !(x < 0);
        case Op::Logarithm:
        case Op::Logarithm10: return !(x <= 0);
        case Op::Power: return !((x == 0 && y < 0) || (x < 0 && y != std::floor(y)));
        case Op::ArcSine:
        case Op::ArcCosine: return !(std::fabs(x) > 1);
        case Op::Sine:
        case Op::Cosine:
        case Op::Tangent:
        case Op::Cotangent: return !std::isinf(x);
        default: return true;
    }
}

double realFunction(Op op, double x, double y) {
    switch (op) {
        case Op::SquareRoot: return std::sqrt(x);
        case Op::Logarithm: return std::log(x);
        case Op::Logarithm10: return std::log10(x);
        case Op::Power: return std::pow(x, y);
        case Op::CubeRoot: return std::cbrt(x);
        case Op::Degrees: return x / kRadiansPerDegree;
        case Op::Radians: return x * kRadiansPerDegree;
        case Op::Sine: return std::sin(x);
        case Op::Cosine: return std::cos(x);
        case Op::Tangent: return std::tan(x);
        case Op::Cotangent: return 1.0 / std::tan(x);
        case Op::ArcSine: return std::asin(x);
        case Op::ArcCosine: return std::acos(x);
        case Op::ArcTangent: return std::atan(x);
        case Op::ArcTangent2: return std::atan2(x, y);
        default: return std::exp(x);
    }
}

}  // namespace

void runRealFunction(Op op, Operands in, std::size_t n, Vector& out) {
    joinStates(in, n, out);
    double* result = out.makeReals();
    for (std::size_t i = 0; i < n; ++i) {
        result[i] = 0;
        if (!isFilled(out, i)) continue;
        const double x = in[0]->reals[in[0]->at(i)];
        const double y = in.size() > 1 ? in[1]->reals[in[1]->at(i)] : 0;
        if (!isDefined(op, x, y)) {
            setState(out, n, i, CellState::NotDefined);
            continue;
        }
        result[i] = realFunction(op, x, y);
        const bool finite = std::isfinite(x) && std::isfinite(y);
        if (std::isinf(result[i]) && finite) setState(out, n, i, CellState::TooLarge);
    }
}

}  // namespace jollyrow
