// SPDX-License-Identifier: MIT
// Writing: one ICU object a column, made ready once. The automatic style without a locale goes past ICU (text_format).
// Covered by tests/formats/formatter_test.cpp.
#include "core/formats/formatter.h"

#include <fmt/format.h>

#include <array>
#include <charconv>
#include <cmath>

#include "core/columns/civil.h"
#include "core/columns/time_zone.h"
#include "core/formats/format_engine.h"

namespace jollyrow {
namespace {

constexpr double kMillisPerDay = 86'400'000.0;
constexpr int kFarDays = 7;  // farther than this, a relative day is written as a date

std::int64_t secondsOf(DurationUnit unit) {
    switch (unit) {
        case DurationUnit::Seconds: return 1;
        case DurationUnit::Minutes: return 60;
        case DurationUnit::Hours: return 3600;
        case DurationUnit::Days: return 86400;
    }
    return 1;
}

/// a / b rounded half away from zero. Requires: b > 0.
Int128 divided(Int128 a, Int128 b) { return a >= 0 ? (a + b / 2) / b : -((-a + b / 2) / b); }

void appendWide(std::string& out, const icu::UnicodeString& text) { text.toUTF8String(out); }

/// Milliseconds as ICU counts them, for a value that is a day, a time or both.
std::optional<double> millisOf(const Value& value) {
    if (const auto* date = std::get_if<Date>(&value)) return date->days * kMillisPerDay;
    if (const auto* time = std::get_if<Time>(&value)) return static_cast<double>(time->micros) / 1000.0;
    if (const auto* stamp = std::get_if<Timestamp>(&value)) return static_cast<double>(stamp->micros) / 1000.0;
    if (const auto* instant = std::get_if<Instant>(&value)) return static_cast<double>(instant->micros) / 1000.0;
    return std::nullopt;
}

/// Messages format in the zone of the process; this shifts so that the civil value comes out.
double inProcessZone(double millis) {
    UErrorCode status = U_ZERO_ERROR;
    const std::unique_ptr<icu::TimeZone> zone(icu::TimeZone::createDefault());
    std::int32_t raw = 0, saving = 0;
    zone->getOffset(millis, true, raw, saving, status);
    return millis - raw - saving;
}

void appendDuration(std::string& out, const Value& value, const Formatter::Engine& engine, DurationUnit unit) {
    const std::int64_t unitSeconds = secondsOf(unit);
    std::int64_t smallest = 86400;
    for (const DurationPiece& piece : engine.pieces)
        if (piece.seconds != 0) smallest = std::min(smallest, piece.seconds);
    Int128 total = 0;  // in the smallest unit shown
    if (const auto* whole = std::get_if<std::int64_t>(&value))
        total = divided(static_cast<Int128>(*whole) * unitSeconds, smallest);
    else if (const auto* exact = std::get_if<Decimal>(&value))
        total = divided(static_cast<Int128>(exact->mantissa) * unitSeconds,
                        static_cast<Int128>(smallest) * powerOfTen(exact->scale));
    else if (const auto* wide = std::get_if<WideDecimal>(&value))
        return appendDuration(out, toReal(*wide), engine, unit);
    else if (const auto* real = std::get_if<double>(&value))
        total = std::abs(*real) < 1e15 ? static_cast<Int128>(std::llround(*real * static_cast<double>(unitSeconds) /
                                                                          static_cast<double>(smallest)))
                                       : 0;
    if (total < 0) {
        out += "\u2212";
        total = -total;
    }
    Int128 rest = total * smallest;
    for (const DurationPiece& piece : engine.pieces) {
        out += piece.literal;
        if (piece.seconds == 0) continue;
        const Int128 count = rest / piece.seconds;
        rest -= count * piece.seconds;
        out += fmt::format("{:0{}}", static_cast<std::int64_t>(count), piece.digits);
    }
}

}  // namespace

FormatSpec formatFor(std::string pattern, bool isBoolean) {
    FormatSpec spec;
    spec.pattern = std::move(pattern);
    if (spec.pattern.empty()) return spec;
    const bool braces = spec.pattern.find('{') != std::string::npos;
    spec.style = braces ? FormatStyle::Message : isBoolean ? FormatStyle::Words : FormatStyle::Pattern;
    return spec;
}

Formatter::Formatter(TextFormat format) : format_(std::move(format)) {}
Formatter::~Formatter() = default;

std::shared_ptr<const Formatter> Formatter::automatic(const TextFormat& format) {
    TextFormat plain = format;
    plain.spec.style = FormatStyle::Automatic;
    plain.spec.pattern.clear();
    plain.locale.clear();
    return std::shared_ptr<const Formatter>(new Formatter(std::move(plain)));
}

Result<std::shared_ptr<const Formatter>> Formatter::make(const TextFormat& format, const TableSchema& schema,
                                                         const FindField& find) {
    std::shared_ptr<Formatter> made(new Formatter(format));
    auto engine = std::make_unique<Engine>();
    const Type type = format.type;
    const bool isDay = hasDay(type), isTime = isCalendar(type);
    const auto notFor = [&](std::string_view what) {
        return Error{ErrorCode::InvalidInput,
                     fmt::format("{} cannot be used here: the column holds {}.", what, article(type)),
                     TextRange{0, std::max<std::size_t>(1, format.spec.pattern.size())}};
    };
    Result<void> prepared;
    switch (format.spec.style) {
        case FormatStyle::Automatic:
            if (format.locale.empty()) return std::shared_ptr<const Formatter>(std::move(made));
            if (isNumber(type))
                prepared = prepareNumber(*engine, format);
            else if (isTime)
                prepared = prepareDate(*engine, format);
            else
                return std::shared_ptr<const Formatter>(std::move(made));
            break;
        case FormatStyle::Pattern:
            if (format.spec.pattern.empty()) return std::shared_ptr<const Formatter>(std::move(made));
            if (isNumber(type))
                prepared = prepareNumber(*engine, format);
            else if (isTime)
                prepared = prepareDate(*engine, format);
            else
                return notFor("A pattern");
            break;
        case FormatStyle::Message: {
            prepared = prepareMessage(*engine, format, schema, find);
            if (prepared)
                for (const MessageArgument& argument : engine->arguments)
                    if (std::find(made->fieldsRead_.begin(), made->fieldsRead_.end(), argument.shown) ==
                        made->fieldsRead_.end())
                        made->fieldsRead_.push_back(argument.shown);
            break;
        }
        case FormatStyle::Words:
            if (type != Type::Boolean) return notFor("A pair of words");
            prepared = prepareWords(*engine, format);
            break;
        case FormatStyle::RelativeDays:
            if (!isDay) return notFor("A relative day");
            prepared = prepareDate(*engine, format);
            break;
        case FormatStyle::Duration:
            if (!isNumber(type)) return notFor("A duration");
            prepared = prepareDuration(*engine, format);
            break;
    }
    if (!prepared) return prepared.error();
    made->engine_ = std::move(engine);
    return std::shared_ptr<const Formatter>(std::move(made));
}

void Formatter::append(std::string& out, const Column& column, SourceRow row) const {
    if (column.isEmpty(row)) {
        if (const auto misfit = column.misfit(row)) out += *misfit;
        return;
    }
    out += format_.spec.prefix;
    if (engine_ && !isBytes(column.type()))
        appendNumber(out, column.value(row));
    else
        appendDisplay(out, column, row, format_);
    out += format_.spec.suffix;
}

void Formatter::append(std::string& out, const Value& value) const {
    if (isEmpty(value)) return;
    if (const auto* odd = std::get_if<Unfit>(&value)) {
        out += odd->text;
        return;
    }
    out += format_.spec.prefix;
    if (engine_ && !std::holds_alternative<std::string>(value) && !std::holds_alternative<Bytes>(value))
        appendNumber(out, value);
    else
        appendDisplay(out, value, format_);
    out += format_.spec.suffix;
}

void Formatter::appendNumber(std::string& out, const Value& value) const {
    const Engine& e = *engine_;
    if (const bool* yes = std::get_if<bool>(&value); yes && format_.spec.style == FormatStyle::Words) {
        out += *yes ? e.yes : e.no;
        return;
    }
    if (format_.spec.style == FormatStyle::Duration) return appendDuration(out, value, e, format_.spec.unit);
    UErrorCode status = U_ZERO_ERROR;
    if (e.number) {
        icu::number::FormattedNumber made;
        if (const auto* whole = std::get_if<std::int64_t>(&value)) {
            made = e.number->formatInt(*whole, status);
        } else if (const auto exact = exactOf(value)) {
            const std::string digits = toString(*exact);
            made = e.number->formatDecimal(icu::StringPiece(digits.data(), static_cast<std::int32_t>(digits.size())),
                                           status);
        } else if (const auto* real = std::get_if<double>(&value)) {
            made = e.number->formatDouble(*real, status);
        } else {
            return appendDisplay(out, value, format_);
        }
        if (U_SUCCESS(status)) appendWide(out, made.toTempString(status));
        return;
    }
    const auto millis = millisOf(value);
    // ICU's clocks go from 23:59 to 00:00: it has no 24:00.
    const auto* time = std::get_if<Time>(&value);
    if (!e.date || !millis || (time && time->micros == kMicrosPerDay)) return appendDisplay(out, value, format_);
    if (e.relative) {
        const auto* instant = std::get_if<Instant>(&value);
        const TimeZone* zone = TimeZone::named(format_.zone);
        const double local = instant && zone ? static_cast<double>(zone->toLocal(instant->micros)) / 1000.0 : *millis;
        const auto days =
            static_cast<int>(std::floor(local / kMillisPerDay)) - (instant && zone ? zone->today() : today());
        if (std::abs(days) <= kFarDays) {
            icu::UnicodeString text;
            e.relative->format(days, UDAT_REL_UNIT_DAY, text, status);
            return appendWide(out, text);
        }
    }
    icu::UnicodeString text;
    e.date->format(*millis, text);
    appendWide(out, text);
}

void Formatter::appendMessage(std::string& out, const ReadField& read) const {
    const Engine& e = *engine_;
    std::vector<icu::UnicodeString> names;
    std::vector<icu::Formattable> values;
    for (const MessageArgument& argument : e.arguments) {
        const Value value = read(argument.typed ? argument.field : argument.shown);
        UErrorCode status = U_ZERO_ERROR;
        names.push_back(argument.name);
        if (!argument.typed) {
            std::string text;
            appendDisplay(text, value, argument.plain);
            values.emplace_back(icu::UnicodeString::fromUTF8(text));
        } else if (isEmpty(value)) {
            return;
        } else if (const auto* whole = std::get_if<std::int64_t>(&value)) {
            values.emplace_back(*whole);
        } else if (const auto exact = exactOf(value)) {
            values.emplace_back(icu::StringPiece(toString(*exact)), status);
        } else if (const auto* real = std::get_if<double>(&value)) {
            values.emplace_back(*real);
        } else if (const auto* instant = std::get_if<Instant>(&value)) {
            const TimeZone* zone = TimeZone::named(argument.plain.zone);
            const std::int64_t local = (zone ? *zone : TimeZone::machine()).toLocal(instant->micros);
            values.emplace_back(inProcessZone(static_cast<double>(local) / 1000.0), icu::Formattable::kIsDate);
        } else if (const auto millis = millisOf(value)) {
            values.emplace_back(inProcessZone(*millis), icu::Formattable::kIsDate);
        } else {
            std::string text;
            appendDisplay(text, value, {});
            values.emplace_back(icu::UnicodeString::fromUTF8(text));
        }
    }
    icu::UnicodeString text;
    UErrorCode status = U_ZERO_ERROR;
    {
        const std::lock_guard lock(e.mutex);
        e.message->format(names.data(), values.data(), static_cast<std::int32_t>(values.size()), text, status);
    }
    if (U_FAILURE(status)) return;
    out += format_.spec.prefix;
    appendWide(out, text);
    out += format_.spec.suffix;
}

}  // namespace jollyrow
