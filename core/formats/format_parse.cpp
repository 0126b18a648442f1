// SPDX-License-Identifier: MIT
// Reading what people type, by the format that wrote it. Idea: a reading counts only when it is whole and, where the
// pattern says less than the value (no year, a compact number), when writing it again gives what was typed; else the
// plain forms are tried. So "3.5" is three and a half even where the locale writes 3,5. Covered by
// tests/formats/formatter_test.cpp, which reads back what every format has written.
#include <fmt/format.h>
#include <unicode/gregocal.h>
#include <unicode/numfmt.h>

#include <charconv>
#include <cmath>

#include "core/base/trimmed.h"
#include "core/columns/civil.h"
#include "core/formats/duration_text.h"
#include "core/formats/format_engine.h"

namespace jollyrow {
namespace {

/// Spaces of all kinds away, any minus as '-', letters small: what counts when two writings are compared.
std::string bare(std::string_view text) {
    std::string out;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const std::string_view rest = text.substr(i);
        if (rest.starts_with("\u2009") || rest.starts_with("\u202f")) {
            i += 2;
        } else if (rest.starts_with("\u00a0")) {
            i += 1;
        } else if (rest.starts_with("\u2212")) {
            out += '-';
            i += 2;
        } else if (text[i] != ' ') {
            out += text[i] >= 'A' && text[i] <= 'Z' ? static_cast<char>(text[i] + 32) : text[i];
        }
    }
    return out;
}

/// A number as exact digits -> a value of the field's type, when it fits.
std::optional<Value> valueOf(std::string_view digits, const FieldSchema& field) {
    if (field.type == Type::Real) {
        double real = 0;
        const auto [end, failure] = std::from_chars(digits.data(), digits.data() + digits.size(), real);
        if (failure != std::errc{} || end != digits.data() + digits.size()) return std::nullopt;
        return Value(real);
    }
    const auto parsed = parseWideDecimal(digits);
    if (!parsed) return std::nullopt;
    if (field.type == Type::Decimal) {
        auto fitted = fittedDecimal(*parsed, digits, field);
        return fitted ? std::optional(std::move(*fitted)) : std::nullopt;
    }
    const auto whole = rescaledExactly(*parsed, 0);
    const auto narrow = whole ? narrowed(WideDecimal{whole->mantissa, 0}) : std::nullopt;
    return field.type == Type::Integer && narrow ? std::optional<Value>(narrow->mantissa) : std::nullopt;
}

std::optional<std::string> digitsRead(const icu::DecimalFormat& format, std::string_view typed) {
    icu::UnicodeString text =
        icu::UnicodeString::fromUTF8(icu::StringPiece(typed.data(), static_cast<std::int32_t>(typed.size())));
    icu::Formattable number;
    icu::ParsePosition position(0);
    format.parse(text, number, position);
    if (position.getIndex() != text.length() || text.isEmpty()) return std::nullopt;
    UErrorCode status = U_ZERO_ERROR;
    const icu::StringPiece digits = number.getDecimalNumber(status);
    if (U_FAILURE(status)) return std::nullopt;
    return std::string(digits.data(), static_cast<std::size_t>(digits.length()));
}

/// The run of digits, signs and separators in a text, as plain digits; "" when there is none.
std::string numberInside(std::string_view typed) {
    std::string out;
    for (const char c : bare(typed))
        if ((c >= '0' && c <= '9') || c == '.' || c == '-') out += c;
    return out;
}

std::optional<Value> durationRead(std::string_view typed, const Formatter::Engine& engine, DurationUnit unit,
                                  const FieldSchema& field) {
    const auto micros = durationMicros(typed, engine.pieces);
    if (!micros) return std::nullopt;
    const std::int64_t unitSeconds = unit == DurationUnit::Seconds   ? 1
                                     : unit == DurationUnit::Minutes ? 60
                                     : unit == DurationUnit::Hours   ? 3600
                                                                     : 86400;
    const std::int64_t unitMicros = unitSeconds * 1'000'000;
    if (field.type == Type::Real) return Value(static_cast<double>(*micros) / static_cast<double>(unitMicros));
    const int scale = field.type == Type::Decimal ? std::min(field.scale, Decimal::kMaxScale) : 0;
    const Int128 scaled = *micros * powerOfTen(scale);
    const Int128 mantissa =
        scaled >= 0 ? (scaled + unitMicros / 2) / unitMicros : -((-scaled + unitMicros / 2) / unitMicros);
    // Twenty minutes are no decimal of an hour; what the column shows must be what was typed all the same.
    std::int64_t smallest = 86400;
    for (const DurationPiece& piece : engine.pieces)
        if (piece.seconds != 0) smallest = std::min(smallest, piece.seconds);
    const Int128 lost = mantissa * unitMicros - scaled, shown = Int128{powerOfTen(scale)} * smallest * 1'000'000;
    if (lost != 0 && (*micros % (smallest * Int128{1'000'000}) != 0 || 2 * (lost < 0 ? -lost : lost) >= shown))
        return std::nullopt;
    if (mantissa > INT64_MAX || mantissa < INT64_MIN) return std::nullopt;
    if (field.type == Type::Integer) return Value(static_cast<std::int64_t>(mantissa));
    return Value(Decimal{static_cast<std::int64_t>(mantissa), scale});
}

/// Fails for a span of time that the column has no value for, and says why; what is none may still be a number.
Result<void> durationKept(std::string_view typed, const Formatter::Engine& engine, DurationUnit unit,
                          const FieldSchema& field) {
    if (!durationMicros(typed, engine.pieces) || durationRead(typed, engine, unit, field)) return {};
    const char* units = unit == DurationUnit::Seconds   ? "seconds"
                        : unit == DurationUnit::Minutes ? "minutes"
                        : unit == DurationUnit::Hours   ? "hours"
                                                        : "days";
    const int scale = field.type == Type::Decimal ? field.scale : 0;
    return Error{ErrorCode::InvalidInput, scale == 0
                                              ? fmt::format("{} keeps whole {}: {} is none.", field.name, units, typed)
                                              : fmt::format("{} keeps {} with {} decimal{}: {} is none.", field.name,
                                                            units, scale, scale == 1 ? "" : "s", typed)};
}

}  // namespace

std::optional<Value> Formatter::parseStyled(std::string_view typed, const FieldSchema& field) const {
    const Engine& e = *engine_;
    const std::lock_guard lock(e.mutex);
    const auto writesBack = [&](const Value& value) {
        std::string again;
        appendNumber(again, value);
        return bare(again) == bare(typed);
    };
    if (format_.spec.style == FormatStyle::Words) {
        if (bare(typed) == bare(e.yes)) return Value(true);
        if (bare(typed) == bare(e.no)) return Value(false);
        return std::nullopt;
    }
    if (format_.spec.style == FormatStyle::Duration) return durationRead(typed, e, format_.spec.unit, field);
    if (e.number) {
        if (!format_.spec.pattern.starts_with("::")) {
            const auto digits = digitsRead(*e.decimal, typed);
            return digits ? valueOf(*digits, field) : std::nullopt;
        }
        // A skeleton only writes: what it may have written is tried against it.
        for (const char* sign : {"", "-"})
            for (const char* exponent : {"", "e-2", "e3", "e6", "e9"}) {
                auto value = valueOf(sign + numberInside(typed) + exponent, field);
                if (value && writesBack(*value)) return value;
            }
        return std::nullopt;
    }
    if (!e.date) return std::nullopt;
    if (e.relative)
        for (int days = -7; days <= 7; ++days) {
            const Value value = field.type == Type::Date ? Value(Date{today() + days}) : Value(Empty{});
            if (!isEmpty(value) && writesBack(value)) return value;
        }
    icu::UnicodeString text =
        icu::UnicodeString::fromUTF8(icu::StringPiece(typed.data(), static_cast<std::int32_t>(typed.size())));
    icu::ParsePosition position(0);
    UErrorCode status = U_ZERO_ERROR;
    icu::GregorianCalendar read(*zoneFor(format_), icuLocale(format_.locale), status);
    read.clear();
    if (!e.dateHasYear && field.type != Type::Time) read.set(UCAL_YEAR, civilFromDays(today()).year);
    e.date->parse(text, read, position);
    if (position.getIndex() != text.length() || text.isEmpty()) return std::nullopt;
    const double millis = read.getTime(status);
    if (U_FAILURE(status)) return std::nullopt;
    const auto micros = static_cast<std::int64_t>(std::llround(millis * 1000));
    const auto days = static_cast<std::int32_t>(std::floor(millis / 86'400'000.0));
    const Value value = field.type == Type::Date      ? Value(Date{days})
                        : field.type == Type::Time    ? Value(Time{micros})
                        : field.type == Type::Instant ? Value(Instant{micros})
                                                      : Value(Timestamp{micros});
    return writesBack(value) ? std::optional(value) : std::nullopt;
}

Result<Value> Formatter::parse(std::string_view typed, const FieldSchema& field) const {
    if (field.type == Type::Text || isMessage()) return parseTyped(typed, field);
    std::string_view text = trimmed(typed);
    const FormatSpec& spec = format_.spec;
    if (!spec.prefix.empty() && text.starts_with(trimmed(spec.prefix)))
        text = trimmed(text.substr(trimmed(spec.prefix).size()));
    if (!spec.suffix.empty() && text.ends_with(trimmed(spec.suffix)))
        text = trimmed(text.substr(0, text.size() - trimmed(spec.suffix).size()));
    if (text.empty()) return parseTyped(text, field);
    if (spec.style == FormatStyle::Duration && engine_)
        if (auto kept = durationKept(text, *engine_, spec.unit, field); !kept) return kept.error();
    if (engine_)
        if (const auto value = parseStyled(text, field)) {
            // The column's own limits (digits, permitted values) stand in the plain reading.
            std::string plain;
            appendPlain(plain, *value);
            return parseTyped(plain, field);
        }
    return parseTyped(text, field);
}

std::string Formatter::editText(const Value& value, const FieldSchema& field) const {
    std::string plain = jollyrow::editText(value, field.zone);
    if (!engine_ || isMessage() || isEmpty(value)) return plain;
    std::string shown;
    append(shown, value);
    const auto again = parse(shown, field);
    return again && *again == value ? shown : plain;
}

}  // namespace jollyrow
