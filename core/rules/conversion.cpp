// SPDX-License-Identifier: MIT
#include "core/rules/conversion.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <cstdlib>
#include <limits>

#include "core/base/trimmed.h"
#include "core/columns/civil.h"
#include "core/rules/text_order.h"

namespace jollyrow {
bool canConvert(RuleKind from, RuleKind to) {
    using Kind = RuleKind;
    if (from == to || from == Kind::Null || from == Kind::Text || to == Kind::Text) return to != Kind::Null;
    if (isNumber(from) && isNumber(to)) return true;
    if ((from == Kind::Boolean && to == Kind::Integer) || (from == Kind::Integer && to == Kind::Boolean)) return true;
    if (hasDay(from) && hasDay(to)) return true;
    if (from == Kind::Timestamp || from == Kind::Instant) return to == Kind::Time;
    return (from == Kind::Time && to == Kind::Interval) || (from == Kind::Interval && to == Kind::Time);
}

std::optional<std::int64_t> integerFromText(std::string_view text) {
    text = trimmed(text);
    if (!text.empty() && text[0] == '+') {
        text.remove_prefix(1);
        if (!text.empty() && text[0] == '-') return std::nullopt;
    }
    std::int64_t value = 0;
    const auto [end, failure] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (failure != std::errc{} || end != text.data() + text.size()) return std::nullopt;
    return value;
}

std::optional<double> realFromText(std::string_view text) {
    text = trimmed(text);
    if (!text.empty() && text[0] == '+') {
        text.remove_prefix(1);
        if (!text.empty() && text[0] == '-') return std::nullopt;
    }
    double value = 0;
    const auto [end, failure] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (failure != std::errc{} || end != text.data() + text.size() || !std::isfinite(value)) return std::nullopt;
    return value;
}

double realOfFloat(float value) {
    constexpr int kFewest = 6, kMost = 9;
    constexpr float kPlain = 1e6F;
    if (!std::isfinite(value) || (std::fabs(value) < kPlain && value == std::trunc(value))) return value;
    // The fewest digits within half a step to either neighbour, its ends left out, as PostgreSQL writes a `real`.
    const double exact = value, up = std::nextafter(value, std::numeric_limits<float>::infinity()),
                 down = std::nextafter(value, -std::numeric_limits<float>::infinity());
    for (int digits = kFewest; digits <= kMost; ++digits) {
        std::array<char, 32> text{};
        const auto written =
            std::to_chars(text.data(), text.data() + text.size(), exact, std::chars_format::scientific, digits - 1);
        double read = exact;
        std::from_chars(text.data(), written.ptr, read);
        if (read < exact + (up - exact) / 2 && read > exact - (exact - down) / 2) return read;
    }
    return exact;
}

std::optional<bool> booleanFromText(std::string_view text) {
    std::string lower(trimmed(text));
    std::transform(lower.begin(), lower.end(), lower.begin(),
                   [](char c) { return c >= 'A' && c <= 'Z' ? static_cast<char>(c + 32) : c; });
    if (lower.empty()) return std::nullopt;
    const auto starts = [&](std::string_view word, std::size_t least) {
        return lower.size() >= least && word.substr(0, lower.size()) == lower;
    };
    if (starts("true", 1) || starts("yes", 1) || lower == "on" || lower == "1") return true;
    if (starts("false", 1) || starts("no", 1) || starts("off", 2) || lower == "0") return false;
    return std::nullopt;
}

std::optional<std::int64_t> instantFromText(std::string_view text, const TimeZone& zone) {
    text = trimmed(text);
    if (const auto instant = parseIsoInstant(text)) return instant;
    if (const auto local = timestampFromText(text)) return zone.toInstant(*local);
    // A zone's name behind it: '2026-11-24 08:00 Europe/Berlin'.
    const std::size_t blank = text.rfind(' ');
    if (blank == std::string_view::npos) return std::nullopt;
    const std::string_view name = text.substr(blank + 1);
    const TimeZone* own = name.find('/') != std::string_view::npos || name == "UTC" ? TimeZone::named(name) : nullptr;
    const auto local = own ? timestampFromText(text.substr(0, blank)) : std::nullopt;
    return local ? std::optional(own->toInstant(*local)) : std::nullopt;
}

std::string textOfInstant(std::int64_t micros, const TimeZone& zone) {
    std::string out;
    appendZonedInstant(out, micros, zone, true);
    return out;
}

std::string textOfReal(double value) {
    if (std::isnan(value)) return "NaN";
    if (std::isinf(value)) return value > 0 ? "Infinity" : "-Infinity";
    if (value == 0) return std::signbit(value) ? "-0" : "0";
    std::array<char, 64> buffer{};
    const auto scientific =
        std::to_chars(buffer.data(), buffer.data() + buffer.size(), value, std::chars_format::scientific);
    const std::string_view text(buffer.data(), static_cast<std::size_t>(scientific.ptr - buffer.data()));
    const std::size_t e = text.find('e');
    const int exponent = std::atoi(std::string(text.substr(e + 1)).c_str());
    if (exponent < -4 || exponent >= 15) return std::string(text);
    std::array<char, 64> fixed{};
    const auto written = std::to_chars(fixed.data(), fixed.data() + fixed.size(), value, std::chars_format::fixed);
    return {fixed.data(), written.ptr};
}

std::string textOfTimestamp(std::int64_t micros) {
    std::string out;
    appendIsoTimestamp(out, micros);
    if (const std::size_t t = out.find('T'); t != std::string::npos) out[t] = ' ';
    return out;
}

std::string textOfTime(std::int64_t micros) {
    std::string out;
    appendIsoTime(out, micros);
    return out;
}

std::string textOfDate(std::int32_t days) {
    std::string out;
    appendIsoDate(out, days);
    return out;
}

std::string textOf(const RuleValue& value) {
    struct Write {
        std::string operator()(Empty) const { return {}; }
        std::string operator()(bool v) const { return v ? "true" : "false"; }
        std::string operator()(std::int64_t v) const { return std::to_string(v); }
        std::string operator()(const WideDecimal& v) const { return toString(v); }
        std::string operator()(double v) const { return textOfReal(v); }
        std::string operator()(const std::string& v) const { return v; }
        std::string operator()(Date v) const { return textOfDate(v.days); }
        std::string operator()(Time v) const { return textOfTime(v.micros); }
        std::string operator()(Timestamp v) const { return textOfTimestamp(v.micros); }
        std::string operator()(Instant v) const { return textOfTimestamp(v.micros) + "+00"; }
        std::string operator()(const Interval& v) const { return toString(v); }
    };
    return std::visit(Write{}, value);
}

std::string localTextOf(const RuleValue& value, const TimeZone& zone) {
    const auto* instant = std::get_if<Instant>(&value);
    if (!instant) return textOf(value);
    const std::int64_t local = zone.toLocal(instant->micros);
    return zone.toInstant(local) == instant->micros ? textOfTimestamp(local) : textOfInstant(instant->micros, zone);
}

std::optional<RuleValue> convertedConstant(const RuleValue& value, RuleKind to, const TimeZone& zone) {
    const auto wrap = [](auto parsed, auto make) -> std::optional<RuleValue> {
        return parsed ? std::optional<RuleValue>(make(*parsed)) : std::nullopt;
    };
    const auto same = [](auto v) { return RuleValue(v); };
    if (std::holds_alternative<Empty>(value) || kindOf(value) == to) return value;
    if (const auto* instant = std::get_if<Instant>(&value); instant && to == RuleKind::Text)
        return textOfInstant(instant->micros, zone);
    if (to == RuleKind::Text) return textOf(value);
    if (const auto* text = std::get_if<std::string>(&value)) {
        switch (to) {
            case RuleKind::Boolean: return wrap(booleanFromText(*text), same);
            case RuleKind::Integer: return wrap(integerFromText(*text), same);
            case RuleKind::Decimal: return wrap(parseWideDecimal(*text), same);
            case RuleKind::Real: return wrap(realFromText(*text), same);
            case RuleKind::Date: return wrap(dateFromText(*text), [](std::int32_t v) { return RuleValue(Date{v}); });
            case RuleKind::Time: return wrap(timeFromText(*text), [](std::int64_t v) { return RuleValue(Time{v}); });
            case RuleKind::Timestamp:
                return wrap(timestampFromText(*text), [](std::int64_t v) { return RuleValue(Timestamp{v}); });
            case RuleKind::Instant:
                return wrap(instantFromText(*text, zone), [](std::int64_t v) { return RuleValue(Instant{v}); });
            case RuleKind::Interval: return wrap(parseInterval(trimmed(*text)), same);
            case RuleKind::Text:
            case RuleKind::Null: return value;
        }
    }
    if (const auto* whole = std::get_if<std::int64_t>(&value)) {
        if (to == RuleKind::Decimal) return WideDecimal{*whole, 0};
        if (to == RuleKind::Real) return static_cast<double>(*whole);
    }
    if (const auto* decimal = std::get_if<WideDecimal>(&value); decimal && to == RuleKind::Real)
        return toReal(*decimal);
    if (const auto* date = std::get_if<Date>(&value); date && to == RuleKind::Timestamp)
        return Timestamp{date->days * kMicrosPerDay};
    if (to == RuleKind::Instant) {
        if (const auto* date = std::get_if<Date>(&value)) return Instant{zone.toInstant(date->days * kMicrosPerDay)};
        if (const auto* stamp = std::get_if<Timestamp>(&value)) return Instant{zone.toInstant(stamp->micros)};
    }
    if (const auto* instant = std::get_if<Instant>(&value); instant && to == RuleKind::Timestamp)
        return Timestamp{zone.toLocal(instant->micros)};
    return std::nullopt;
}

std::string constantText(const RuleValue& value) {
    const auto quoted = [](std::string_view text) {
        std::string out = "'";
        for (const char c : text) {
            if (c == '\'') out += c;
            out += c;
        }
        return out + "'";
    };
    switch (kindOf(value)) {
        case RuleKind::Null: return "NULL";
        case RuleKind::Boolean: return std::get<bool>(value) ? "TRUE" : "FALSE";
        case RuleKind::Integer:
        case RuleKind::Decimal: return textOf(value);
        case RuleKind::Real: return fmt::format("CAST({} AS DOUBLE PRECISION)", quoted(textOf(value)));
        case RuleKind::Text: return quoted(std::get<std::string>(value));
        case RuleKind::Date: return "DATE " + quoted(textOf(value));
        case RuleKind::Time: return "TIME " + quoted(textOf(value));
        case RuleKind::Timestamp: return "TIMESTAMP " + quoted(textOf(value));
        case RuleKind::Instant: return "TIMESTAMP WITH TIME ZONE " + quoted(textOf(value));
        case RuleKind::Interval: return "INTERVAL " + quoted(textOf(value));
    }
    return {};
}

int compareValues(const RuleValue& a, const RuleValue& b) {
    if (const auto* text = std::get_if<std::string>(&a)) return compareTexts(*text, std::get<std::string>(b));
    const auto order = [](const auto& x, const auto& y) { return x < y ? -1 : y < x ? 1 : 0; };
    if (const auto* v = std::get_if<std::int64_t>(&a)) return order(*v, std::get<std::int64_t>(b));
    if (const auto* v = std::get_if<WideDecimal>(&a)) return order(*v, std::get<WideDecimal>(b));
    if (const auto* v = std::get_if<double>(&a)) return order(*v, std::get<double>(b));
    if (const auto* v = std::get_if<Date>(&a)) return order(v->days, std::get<Date>(b).days);
    if (const auto* v = std::get_if<Time>(&a)) return order(v->micros, std::get<Time>(b).micros);
    if (const auto* v = std::get_if<Timestamp>(&a)) return order(v->micros, std::get<Timestamp>(b).micros);
    if (const auto* v = std::get_if<Instant>(&a)) return order(v->micros, std::get<Instant>(b).micros);
    if (const auto* v = std::get_if<Interval>(&a)) return order(*v, std::get<Interval>(b));
    if (const auto* v = std::get_if<bool>(&a)) return order(*v, std::get<bool>(b));
    return 0;
}

}  // namespace jollyrow
