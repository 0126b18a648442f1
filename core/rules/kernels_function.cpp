// SPDX-License-Identifier: MIT
// Functions of exact numbers, value by value. Covered by tests/rules/postgres_oracle_test.cpp, typed_oracle_test.cpp.
#include <array>
#include <limits>
#include <numeric>

#include "core/columns/decimal_functions.h"
#include "core/rules/kernels.h"

namespace jollyrow {
namespace {

/// A value, or the state that stands instead.
struct Exact {
    std::optional<WideDecimal> value;
    CellState state = CellState::TooLarge;
};

constexpr std::nullopt_t kNone = std::nullopt;

/// a / b without what is left over.
std::optional<WideDecimal> wholeQuotient(const WideDecimal& a, const WideDecimal& b) {
    const auto rest = remainder(a, b);
    const auto whole = rest ? subtracted(a, *rest) : kNone;
    const auto quotient = whole ? divided(*whole, b) : kNone;
    return quotient ? rounded(*quotient, 0) : kNone;
}

Exact exactFunction(Op op, const WideDecimal& x, const WideDecimal& y) {
    switch (op) {
        case Op::SquareRoot: return x.mantissa < 0 ? Exact{kNone, CellState::NotDefined} : Exact{squareRoot(x)};
        case Op::Logarithm: return x.mantissa <= 0 ? Exact{kNone, CellState::NotDefined} : Exact{naturalLogarithm(x)};
        case Op::Power: return isPowerDefined(x, y) ? Exact{power(x, y)} : Exact{kNone, CellState::NotDefined};
        case Op::WholeQuotient:
            return y.mantissa == 0 ? Exact{kNone, CellState::DivisionByZero} : Exact{wholeQuotient(x, y)};
        case Op::Exponential: return Exact{exponential(x)};
        default: {  // LOG, of its base and a number
            if (x.mantissa <= 0 || y.mantissa <= 0) return {kNone, CellState::NotDefined};
            if (x == WideDecimal{1, 0}) return {kNone, CellState::DivisionByZero};
            return Exact{logarithm(x, y)};
        }
    }
}

/// Least common multiple and greatest common divisor are never negative; nullopt past 64 bits.
std::optional<std::int64_t> wholeFunction(Op op, std::int64_t x, std::int64_t y) {
    constexpr Int128 kMost = std::numeric_limits<std::int64_t>::max();
    if (op == Op::WholeQuotient)
        return x == std::numeric_limits<std::int64_t>::min() && y == -1 ? std::nullopt : std::optional(x / y);
    const Int128 a = x < 0 ? -Int128{x} : Int128{x}, b = y < 0 ? -Int128{y} : Int128{y};
    Int128 divisor = a, other = b;
    while (other != 0) divisor = std::exchange(other, divisor % other);
    const Int128 result = op == Op::CommonDivisor ? divisor : divisor == 0 ? Int128{0} : a / divisor * b;
    return result <= kMost ? std::optional(static_cast<std::int64_t>(result)) : std::nullopt;
}

/// As PostgreSQL: the bucket of a double is taken from a quotient that may round, but never to the one behind.
Exact realBucket(double value, double low, double high, std::int64_t count) {
    const bool isDown = low > high;
    if (isDown ? value > low : value < low) return {WideDecimal{0, 0}};
    if (isDown ? value <= high : value >= high) return {WideDecimal{Int128{count} + 1, 0}};
    const double all = static_cast<double>(count);
    const double place = all * (isDown ? (low - value) / (low - high) : (value - low) / (high - low));
    return {WideDecimal{static_cast<std::int64_t>(place >= all ? all - 1 : place) + Int128{1}, 0}};
}

Exact exactBucket(const WideDecimal& value, const WideDecimal& low, const WideDecimal& high, std::int64_t count) {
    const bool isDown = low > high;
    if (isDown ? value > low : value < low) return {WideDecimal{0, 0}};
    if (isDown ? value <= high : value >= high) return {WideDecimal{Int128{count} + 1, 0}};
    const auto off = isDown ? subtracted(low, value) : subtracted(value, low);
    const auto width = isDown ? subtracted(low, high) : subtracted(high, low);
    const auto scaled = off ? multiplied(*off, {count, 0}) : kNone;
    const auto place = scaled && width ? wholeQuotient(*scaled, *width) : kNone;
    return {place ? added(*place, {1, 0}) : kNone};
}

}  // namespace

void runExactFunction(Op op, Operands in, std::size_t n, Vector& out) {
    joinStates(in, n, out);
    out.wide = true;
    WideDecimal* result = out.makeWides();
    const WideDecimal ten{10, 0};
    const bool isTenBased = op == Op::Logarithm10 && in.size() == 1;
    for (std::size_t i = 0; i < n; ++i) {
        result[i] = {};
        if (out.state(i) != CellState::Filled) continue;
        const WideDecimal first = in[0]->decimal(i);
        const Exact made = isTenBased ? exactFunction(op, ten, first)
                                      : exactFunction(op, first, in.size() > 1 ? in[1]->decimal(i) : WideDecimal{});
        if (made.value)
            result[i] = *made.value;
        else
            setState(out, n, i, made.state);
    }
}

void runWholeFunction(Op op, Operands in, std::size_t n, Vector& out) {
    joinStates(in, n, out);
    std::int64_t* result = out.makeIntegers();
    for (std::size_t i = 0; i < n; ++i) {
        result[i] = 0;
        if (out.state(i) != CellState::Filled) continue;
        const std::int64_t x = in[0]->integers[in[0]->at(i)], y = in[1]->integers[in[1]->at(i)];
        if (op == Op::WholeQuotient && y == 0) {
            setState(out, n, i, CellState::DivisionByZero);
            continue;
        }
        if (const auto value = wholeFunction(op, x, y))
            result[i] = *value;
        else
            setState(out, n, i, CellState::TooLarge);
    }
}

void runScaleFunction(Op op, const Vector& in, std::size_t n, Vector& out) {
    joinStates(std::array{&in}, n, out);
    const bool isDecimal = op == Op::TrimScale;
    std::int64_t* counts = isDecimal ? nullptr : out.makeIntegers();
    WideDecimal* decimals = isDecimal ? out.makeWides() : nullptr;
    out.wide = isDecimal;
    for (std::size_t i = 0; i < n; ++i) {
        const bool isFilled = out.state(i) == CellState::Filled;
        const WideDecimal value = isFilled ? in.decimal(i) : WideDecimal{};
        if (isDecimal)
            decimals[i] = unpadded(value);
        else
            counts[i] = op == Op::ScaleOf ? value.scale : unpadded(value).scale;
    }
}

void runWidthBucket(Operands in, std::size_t n, Vector& out) {
    joinStates(in, n, out);
    std::int64_t* result = out.makeIntegers();
    for (std::size_t i = 0; i < n; ++i) {
        result[i] = 0;
        if (out.state(i) != CellState::Filled) continue;
        const std::int64_t count = in[3]->integers[in[3]->at(i)];
        Exact bucket{kNone, CellState::NotDefined};
        if (in[0]->kind == RuleKind::Real) {
            const auto real = [&](std::size_t k) { return in[k]->reals[in[k]->at(i)]; };
            if (count > 0 && real(1) != real(2)) bucket = realBucket(real(0), real(1), real(2), count);
        } else if (count > 0 && in[1]->decimal(i) != in[2]->decimal(i)) {
            bucket = exactBucket(in[0]->decimal(i), in[1]->decimal(i), in[2]->decimal(i), count);
        }
        const auto whole = bucket.value ? toInteger(*bucket.value) : std::nullopt;
        if (whole)
            result[i] = *whole;
        else
            setState(out, n, i, bucket.state);
    }
}

}  // namespace jollyrow
