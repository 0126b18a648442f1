// SPDX-License-Identifier: MIT
// CAST between kinds. Widening (whole numbers to decimals and doubles, dates to timestamps) runs in plain loops; the
// rest goes value by value. Doubles round half to even, decimals half away from zero, as in PostgreSQL.
#include <array>
#include <cmath>
#include <limits>

#include "core/columns/civil.h"
#include "core/rules/conversion.h"
#include "core/rules/kernels.h"
#include "core/rules/utf8.h"

namespace jollyrow {
namespace {

using K = RuleKind;

/// One value converted, or why not.
struct Converted {
    RuleValue value = Empty{};
    CellState state = CellState::Filled;
};

Converted failed(CellState state) { return {Empty{}, state}; }
template <class T>
Converted orFail(const std::optional<T>& value, CellState state) {
    return value ? Converted{RuleValue(*value), CellState::Filled} : failed(state);
}

Converted fromText(const std::string& text, K to, const TimeZone& zone) {
    switch (to) {
        case K::Boolean: return orFail(booleanFromText(text), CellState::NotConvertible);
        case K::Integer: return orFail(integerFromText(text), CellState::NotConvertible);
        case K::Decimal: return orFail(parseWideDecimal(text), CellState::NotConvertible);
        case K::Real: return orFail(realFromText(text), CellState::NotConvertible);
        case K::Date: {
            const auto days = dateFromText(text);
            return days ? Converted{Date{*days}} : failed(CellState::NoSuchDate);
        }
        case K::Time: {
            const auto micros = timeFromText(text);
            return micros ? Converted{Time{*micros}} : failed(CellState::NoSuchDate);
        }
        case K::Timestamp: {
            const auto micros = timestampFromText(text);
            return micros ? Converted{Timestamp{*micros}} : failed(CellState::NoSuchDate);
        }
        case K::Instant: {
            const auto micros = instantFromText(text, zone);
            return micros ? Converted{Instant{*micros}} : failed(CellState::NoSuchDate);
        }
        case K::Interval: return orFail(parseInterval(text), CellState::NotConvertible);
        default: return {text};
    }
}

/// A whole number of 16 bits, or a double that a `real` of 24 bits keeps: the one with the same shortest text.
Converted narrowed(Converted given, int bits) {
    if (bits == 0 || given.state != CellState::Filled) return given;
    if (const auto* whole = std::get_if<std::int64_t>(&given.value)) {
        const std::int64_t limit = std::int64_t{1} << (bits - 1);
        return *whole >= -limit && *whole < limit ? given : failed(CellState::TooLarge);
    }
    const double real = std::get<double>(given.value);
    const auto small = static_cast<float>(real);
    if ((std::isinf(small) && std::isfinite(real)) || (small == 0 && real != 0)) return failed(CellState::TooLarge);
    return {realOfFloat(small)};
}

Converted toInteger64(const RuleValue& value) {
    if (const auto* yes = std::get_if<bool>(&value)) return {std::int64_t{*yes ? 1 : 0}};
    if (const auto* decimal = std::get_if<WideDecimal>(&value)) return orFail(toInteger(*decimal), CellState::TooLarge);
    const double real = std::nearbyint(std::get<double>(value));
    if (!(real >= -9223372036854775808.0 && real < 9223372036854775808.0)) return failed(CellState::TooLarge);
    return {static_cast<std::int64_t>(real)};
}

Converted toDecimal(const RuleValue& value, const Instruction& cast) {
    std::optional<WideDecimal> decimal;
    if (const auto* whole = std::get_if<std::int64_t>(&value))
        decimal = WideDecimal{*whole, 0};
    else if (const auto* real = std::get_if<double>(&value))
        decimal = wideFromReal(*real);
    else
        decimal = std::get<WideDecimal>(value);
    if (decimal && cast.precision >= 0) {
        decimal = rounded(*decimal, cast.type.scale);
        const Int128 most = widePower(cast.precision);
        if (decimal && (decimal->mantissa >= most || decimal->mantissa <= -most)) decimal.reset();
    }
    return orFail(decimal, CellState::TooLarge);
}

Converted toText(const RuleValue& value, const Instruction& cast, const TimeZone& zone) {
    const auto* instant = std::get_if<Instant>(&value);
    std::string text = instant ? textOfInstant(instant->micros, zone) : textOf(value);
    if (cast.precision >= 0) text.resize(codePointOffset(text, static_cast<std::size_t>(cast.precision)));
    return {std::move(text)};
}

Converted convert(const RuleValue& value, const Instruction& cast, const TimeZone& zone) {
    const K to = cast.type.kind;
    if (to == K::Text) return toText(value, cast, zone);
    if (kindOf(value) == to && to != K::Decimal) return {value};
    if (const auto* text = std::get_if<std::string>(&value)) {
        Converted read = fromText(*text, to, zone);
        if (to == K::Decimal && read.state == CellState::Filled) return toDecimal(read.value, cast);
        return read;
    }
    switch (to) {
        case K::Integer: return toInteger64(value);
        case K::Decimal: return toDecimal(value, cast);
        case K::Boolean: return {std::get<std::int64_t>(value) != 0};
        case K::Real:
            return std::holds_alternative<std::int64_t>(value)
                       ? Converted{static_cast<double>(std::get<std::int64_t>(value))}
                       : Converted{toReal(std::get<WideDecimal>(value))};
        case K::Timestamp: return {Timestamp{std::get<Date>(value).days * kMicrosPerDay}};
        case K::Date: {
            const std::int64_t micros = std::get<Timestamp>(value).micros;
            return {Date{static_cast<std::int32_t>(dayOf(micros))}};
        }
        case K::Time: {
            const std::int64_t micros = std::holds_alternative<Timestamp>(value) ? std::get<Timestamp>(value).micros
                                                                                 : std::get<Interval>(value).micros;
            const std::int64_t rest = micros % kMicrosPerDay;
            return {Time{rest < 0 ? rest + kMicrosPerDay : rest}};
        }
        case K::Interval: return {Interval{0, 0, std::get<Time>(value).micros}};
        default: return failed(CellState::NotConvertible);
    }
}

/// From and to instants, which fall on a day of the zone's clocks. False when neither side is one, or a text is.
bool runBetweenZones(const Vector& in, K to, const TimeZone& zone, std::size_t n, Vector& out) {
    const K from = in.kind;
    if (from == K::Text || to == K::Text || (from != K::Instant && to != K::Instant)) return false;
    std::int64_t* result = out.makeIntegers();
    for (std::size_t i = 0; i < n; ++i) {
        const std::int64_t value = in.integers[i];
        if (to == K::Instant) {
            result[i] = zone.toInstant(from == K::Date ? value * kMicrosPerDay : value);
            continue;
        }
        const std::int64_t local = zone.toLocal(value);
        result[i] = to == K::Timestamp ? local : to == K::Date ? dayOf(local) : local - dayOf(local) * kMicrosPerDay;
    }
    return true;
}

/// The ways that need no value by itself; false where each is to be converted.
bool runAtOnce(const Instruction& cast, const Vector& in, const TimeZone& zone, std::size_t n, Vector& out) {
    const K from = in.kind, to = cast.type.kind;
    if (from == K::Integer && to == K::Decimal && cast.precision < 0) {
        out.scale = 0;
        std::int64_t* result = out.makeIntegers();
        for (std::size_t i = 0; i < n; ++i) result[i] = in.integers[i];
        return true;
    }
    if (cast.bits != 0) return false;
    if (from == K::Integer && to == K::Real) {
        double* result = out.makeReals();
        for (std::size_t i = 0; i < n; ++i) result[i] = static_cast<double>(in.integers[i]);
        return true;
    }
    if (runBetweenZones(in, to, zone, n, out)) return true;
    if (from == K::Date && to == K::Timestamp) {
        std::int64_t* result = out.makeIntegers();
        for (std::size_t i = 0; i < n; ++i) result[i] = in.integers[i] * kMicrosPerDay;
        return true;
    }
    if (from == K::Decimal && to == K::Real && !in.wide && in.scale <= 15) {
        // Both exact in a double below 2^53, so one division rounds correctly.
        double* result = out.makeReals();
        const auto power = static_cast<double>(powerOfTen(in.scale));
        constexpr std::int64_t kExact = std::int64_t{1} << 53;
        bool allExact = true;
        for (std::size_t i = 0; i < n; ++i) {
            result[i] = static_cast<double>(in.integers[i]) / power;
            allExact &= in.integers[i] <= kExact && in.integers[i] >= -kExact;
        }
        if (allExact) return true;
    }
    return false;
}

void runOneByOne(const Instruction& cast, const Vector& in, const TimeZone& zone, std::size_t n, Vector& out) {
    const K to = cast.type.kind;
    const std::uint8_t* states = out.states;
    makeRoom(out, to);
    out.states = states;
    if (to == K::Decimal) {
        out.wide = true;
        out.makeWides();
    }
    for (std::size_t i = 0; i < n; ++i) {
        if (in.state(i) != CellState::Filled) {
            if (to == K::Text) out.textStore[i] = {};
            continue;
        }
        const Converted done = narrowed(convert(boxed(in, i), cast, zone), cast.bits);
        if (done.state == CellState::Filled)
            unbox(done.value, out, i);
        else {
            if (to == K::Text) out.textStore[i] = {};
            setState(out, n, i, done.state);
        }
    }
    // Decimals that were given one scale go on in the fast form.
    if (to == K::Decimal && cast.precision >= 0 && cast.precision <= 18) {
        std::int64_t* narrow = out.makeIntegers();
        for (std::size_t i = 0; i < n; ++i)
            narrow[i] = out.state(i) == CellState::Filled ? static_cast<std::int64_t>(out.wideStore[i].mantissa) : 0;
        out.wide = false;
        out.scale = cast.type.scale;
    }
}

}  // namespace

void runCast(const Instruction& cast, const Vector& in, const TimeZone& zone, std::size_t n, Vector& out) {
    out.forget();
    joinStates(std::array{&in}, n, out);
    out.wide = false;
    if (!runAtOnce(cast, in, zone, n, out)) runOneByOne(cast, in, zone, n, out);
}

}  // namespace jollyrow
