// SPDX-License-Identifier: MIT
#include "core/formats/text_format.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>

#include "core/columns/number_list.h"
#include "core/columns/civil.h"
#include "core/columns/interval.h"
#include "core/columns/time_zone.h"
#include "core/pictures/picture_kind.h"

namespace jollyrow {
namespace {

constexpr std::string_view kThinSpace = "\u2009";
constexpr std::string_view kMinus = "\u2212";
constexpr std::array<std::string_view, 12> kMonths = {"Jan", "Feb", "Mar", "Apr", "May", "Jun",
                                                      "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"};

/// Digits with a point before the last `scale` of them and groups of three in front of it.
void appendDigits(std::string& out, std::string_view digits, int scale, bool grouped) {
    const int count = static_cast<int>(digits.size());
    const int whole = std::max(count - scale, 0);
    if (whole == 0) out += '0';
    for (int i = 0; i < whole; ++i) {
        out += digits[static_cast<std::size_t>(i)];
        if (const int left = whole - 1 - i; grouped && left > 0 && left % 3 == 0) out += kThinSpace;
    }
    if (scale == 0) return;
    out += '.';
    out.append(static_cast<std::size_t>(std::max(scale - count, 0)), '0');
    out.append(digits.data() + whole, static_cast<std::size_t>(count - whole));
}

void appendNumber(std::string& out, std::int64_t mantissa, int scale, bool grouped) {
    std::array<char, 24> digits{};
    const std::uint64_t magnitude =
        mantissa < 0 ? 0 - static_cast<std::uint64_t>(mantissa) : static_cast<std::uint64_t>(mantissa);
    const auto end = std::to_chars(digits.data(), digits.data() + digits.size(), magnitude).ptr;
    if (mantissa < 0) out += kMinus;
    appendDigits(out, {digits.data(), static_cast<std::size_t>(end - digits.data())}, scale, grouped);
}

void appendExact(std::string& out, const WideDecimal& value, bool grouped) {
    if (value.mantissa == static_cast<std::int64_t>(value.mantissa))
        return appendNumber(out, static_cast<std::int64_t>(value.mantissa), value.scale, grouped);
    if (value.mantissa < 0) out += kMinus;
    appendDigits(out, toString(value.mantissa < 0 ? -value.mantissa : value.mantissa, 0), value.scale, grouped);
}

/// A double as people read it: at most six decimals, rounded, without zeros at their end; very large and very small
/// ones with six digits and a power of ten. The plain form keeps every digit.
void appendReal(std::string& out, double value, bool grouped) {
    constexpr int kDecimals = 6;
    std::array<char, 64> digits{};
    const double size = std::abs(value);
    const bool scientific = std::isfinite(value) && value != 0 && (size >= 1e15 || size < 1e-4);
    const auto end =
        !std::isfinite(value) ? std::to_chars(digits.data(), digits.data() + digits.size(), size).ptr
        : scientific
            ? std::to_chars(digits.data(), digits.data() + digits.size(), size, std::chars_format::general, kDecimals)
                  .ptr
            : std::to_chars(digits.data(), digits.data() + digits.size(), size, std::chars_format::fixed, kDecimals)
                  .ptr;
    std::string_view text(digits.data(), static_cast<std::size_t>(end - digits.data()));
    if (std::signbit(value) && value != 0) out += kMinus;
    if (scientific || !std::isfinite(value)) return void(out += text);
    const std::size_t point = text.size() - kDecimals - 1;
    std::string_view fraction = text.substr(point + 1);
    while (!fraction.empty() && fraction.back() == '0') fraction.remove_suffix(1);
    appendDigits(out, text.substr(0, point), 0, grouped);
    if (!fraction.empty()) out.append(".").append(fraction);
}

void appendDisplayDate(std::string& out, std::int32_t days) {
    const CivilDate date = civilFromDays(days);
    out += std::to_string(date.day);
    out += ' ';
    out += kMonths[date.month - 1];
    out += ' ';
    out += std::to_string(date.year);
}

void appendDisplayTime(std::string& out, std::int64_t micros) {
    const std::size_t start = out.size();
    appendIsoTime(out, micros);
    if (micros % 60'000'000 == 0) out.resize(start + 5);
}

void appendDisplayTimestamp(std::string& out, std::int64_t micros) {
    std::int64_t days = micros / kMicrosPerDay;
    if (micros % kMicrosPerDay < 0) --days;
    appendDisplayDate(out, static_cast<std::int32_t>(days));
    out += ' ';
    appendDisplayTime(out, micros - days * kMicrosPerDay);
}

/// On the zone's clocks. Of the hour that they show twice, the first has its offset behind it.
void appendDisplayInstant(std::string& out, std::int64_t micros, const std::string& zoneName) {
    const TimeZone* zone = TimeZone::named(zoneName);
    if (!zone) zone = &TimeZone::machine();
    const std::int64_t local = zone->toLocal(micros);
    appendDisplayTimestamp(out, local);
    if (zone->toInstant(local) == micros) return;
    out += ' ';
    appendOffset(out, zone->offsetAt(micros));
}

void appendInteger(std::string& out, std::int64_t value, const TextFormat& format) {
    switch (format.type) {
        case Type::Boolean: out += value != 0 ? "yes" : "no"; return;
        case Type::Integer: appendNumber(out, value, 0, format.grouped); return;
        case Type::Decimal: appendNumber(out, value, format.scale, format.grouped); return;
        case Type::Date: appendDisplayDate(out, static_cast<std::int32_t>(value)); return;
        case Type::Time: appendDisplayTime(out, value); return;
        case Type::Timestamp: appendDisplayTimestamp(out, value); return;
        case Type::Instant: appendDisplayInstant(out, value, format.zone); return;
        case Type::Real:
        case Type::Text:
        case Type::Interval:
        case Type::Binary:
        case Type::NumberList: return;
    }
}

void appendSize(std::string& out, std::string_view what, std::uint64_t bytes) {
    out += fmt::format("{}, {:.1f} kB", what, static_cast<double>(bytes) / 1000.0);
}

void appendBinary(std::string& out, std::string_view bytes) {
    const auto kind = pictureKind(bytes);
    appendSize(out, kind ? name(*kind) : "data", bytes.size());
}

/// Of a value that stays in the database.
void appendUnread(std::string& out, std::uint64_t bytes, Use use) {
    appendSize(out, use == Use::Picture ? "picture" : "data", bytes);
}

/// Drops what people type inside numbers: any space, a comma used as a group mark, and turns U+2212 into '-'.
std::string normalisedNumber(std::string_view typed) {
    std::string out;
    for (std::size_t i = 0; i < typed.size(); ++i) {
        if (typed.substr(i).starts_with(kMinus)) {
            out += '-';
            i += kMinus.size() - 1;
        } else if (typed.substr(i).starts_with(kThinSpace) || typed.substr(i).starts_with("\u202f")) {
            i += 2;
        } else if (typed.substr(i).starts_with("\u00a0")) {
            i += 1;
        } else if (typed[i] != ' ') {
            out += typed[i];
        }
    }
    // "1,184.50": a comma followed by exactly three digits, then a comma, a point or the end, is a group mark.
    for (std::size_t at = out.find(','); at != std::string::npos; at = out.find(',', at)) {
        const bool threeDigits =
            at > 0 && at + 4 <= out.size() &&
            std::all_of(out.begin() + static_cast<std::ptrdiff_t>(at) + 1,
                        out.begin() + static_cast<std::ptrdiff_t>(at) + 4, [](char c) { return c >= '0' && c <= '9'; });
        const bool ends = threeDigits && (at + 4 == out.size() || out[at + 4] == ',' || out[at + 4] == '.');
        if (!ends) break;
        out.erase(at, 1);
    }
    return out;
}

std::string_view bared(std::string_view text) {
    while (!text.empty() && (text.front() == ' ' || text.front() == '\t' || text.front() == '\n'))
        text.remove_prefix(1);
    while (!text.empty() && (text.back() == ' ' || text.back() == '\t' || text.back() == '\n')) text.remove_suffix(1);
    return text;
}

Error refusal(std::string message) { return {ErrorCode::InvalidInput, std::move(message)}; }

std::string lowered(std::string_view text) {
    std::string out(text);
    for (char& c : out) c = c >= 'A' && c <= 'Z' ? static_cast<char>(c + 32) : c;
    return out;
}

/// "24 Nov 2026", "24 November 2026", "24 Nov" (this year), "24.11.2026", "2026-11-24"; day first, as displayed.
Result<Value> parseDate(std::string_view typed) {
    if (const auto days = parseIsoDate(typed)) return Value(Date{*days});
    const std::string text = lowered(typed);
    const std::string_view rest = text;
    if (rest == "today") return Value(Date{today()});
    unsigned day = 0;
    std::size_t at = 0;
    while (at < rest.size() && rest[at] >= '0' && rest[at] <= '9' && at < 2)
        day = day * 10 + static_cast<unsigned>(rest[at++] - '0');
    const std::size_t dayDigits = at;
    while (at < rest.size() && (rest[at] == ' ' || rest[at] == '.' || rest[at] == ',')) ++at;
    unsigned month = 0;
    if (dayDigits != 0 && at < rest.size() && rest[at] >= 'a' && rest[at] <= 'z') {
        const std::size_t start = at;
        while (at < rest.size() && rest[at] >= 'a' && rest[at] <= 'z') ++at;
        for (unsigned m = 0; m < 12 && at - start >= 3; ++m)
            if (rest.substr(start, 3) == lowered(kMonths[m])) month = m + 1;
    } else if (dayDigits != 0) {
        const std::size_t start = at;
        while (at < rest.size() && rest[at] >= '0' && rest[at] <= '9' && at - start < 2)
            month = month * 10 + static_cast<unsigned>(rest[at++] - '0');
    }
    while (at < rest.size() && (rest[at] == ' ' || rest[at] == '.' || rest[at] == ',')) ++at;
    int year = at == rest.size() ? civilFromDays(today()).year : 0;
    const std::size_t yearStart = at;
    while (at < rest.size() && rest[at] >= '0' && rest[at] <= '9' && at - yearStart < 4)
        year = year * 10 + (rest[at++] - '0');
    const bool wellFormed =
        dayDigits != 0 && month >= 1 && month <= 12 && at == rest.size() && (yearStart == at || at - yearStart == 4);
    if (!wellFormed)
        return refusal(fmt::format("\"{}\" is not a date. Type it like 24 Nov 2026 or 2026-11-24.", typed));
    if (const auto days = daysFromCivil({year, month, day})) return Value(Date{*days});
    return refusal(fmt::format("There is no {} {} {}.", day, kMonths[month - 1], year));
}

Result<Value> parseDecimalTyped(std::string_view typed, const FieldSchema& field) {
    const auto parsed = parseWideDecimal(normalisedNumber(typed));
    if (!parsed) return refusal(fmt::format("\"{}\" is not a number. Type it like 1184.50.", typed));
    return fittedDecimal(*parsed, typed, field);
}

Result<Value> parseInteger(std::string_view typed) {
    const std::string digits = normalisedNumber(typed);
    std::int64_t value = 0;
    const char* begin = digits.data() + (digits.starts_with('+') ? 1 : 0);
    const auto [end, failure] = std::from_chars(begin, digits.data() + digits.size(), value);
    if (failure == std::errc::result_out_of_range)
        return refusal(fmt::format("{} is too large for a whole number.", typed));
    if (failure != std::errc{} || end != digits.data() + digits.size())
        return refusal(fmt::format("\"{}\" is not a whole number.", typed));
    return Value(value);
}

Result<Value> parseReal(std::string_view typed) {
    const std::string digits = normalisedNumber(typed);
    double value = 0;
    const auto [end, failure] = std::from_chars(digits.data(), digits.data() + digits.size(), value);
    if (failure != std::errc{} || end != digits.data() + digits.size() || !std::isfinite(value))
        return refusal(fmt::format("\"{}\" is not a number.", typed));
    return Value(value);
}

Result<Value> parseBoolean(std::string_view typed) {
    const std::string text = lowered(typed);
    if (text == "yes" || text == "true" || text == "1" || text == "y" || text == "on") return Value(true);
    if (text == "no" || text == "false" || text == "0" || text == "n" || text == "off") return Value(false);
    return refusal(fmt::format("\"{}\" is neither yes nor no.", typed));
}

std::size_t lengthOf(std::string_view text) {
    return static_cast<std::size_t>(std::count_if(text.begin(), text.end(), [](char c) { return (c & 0xc0) != 0x80; }));
}

Result<Value> parseText(std::string_view typed, const FieldSchema& field) {
    if (field.maxLength > 0 && lengthOf(typed) > static_cast<std::size_t>(field.maxLength))
        return refusal(fmt::format("At most {} characters fit here; this has {}.", field.maxLength, lengthOf(typed)));
    return Value(std::string(typed));
}

Result<Value> parseTimestamp(std::string_view typed) {
    if (const auto micros = parseIsoTimestamp(typed)) return Value(Timestamp{*micros});
    const std::size_t space = typed.rfind(' ');
    const auto time = space == std::string_view::npos ? std::nullopt : parseIsoTime(typed.substr(space + 1));
    const Result<Value> date = parseDate(time ? bared(typed.substr(0, space)) : typed);
    if (!date) return refusal(fmt::format("\"{}\" is not a date and time. Type it like 24 Nov 2026 14:05.", typed));
    return Value(Timestamp{std::get<Date>(*date).days * kMicrosPerDay + time.value_or(0)});
}

/// With an offset behind it, or as the zone's clocks have it.
Result<Value> parseInstant(std::string_view typed, const std::string& zoneName) {
    if (const auto instant = parseIsoInstant(typed)) return Value(Instant{*instant});
    const TimeZone* zone = TimeZone::named(zoneName);
    if (!zone) zone = &TimeZone::machine();
    const std::size_t space = typed.rfind(' ');
    const std::string_view tail = space == std::string_view::npos ? std::string_view() : typed.substr(space + 1);
    // "26 Oct 2026 02:30 +02:00": the offset is read on a day that needs none.
    const auto midnight = tail.starts_with('+') || tail.starts_with('-')
                              ? parseIsoInstant(fmt::format("1970-01-02T00:00:00{}", tail))
                              : std::nullopt;
    auto local = parseTimestamp(midnight ? bared(typed.substr(0, space)) : typed);
    if (!local) return local;
    const std::int64_t micros = std::get<Timestamp>(*local).micros;
    return Value(Instant{midnight ? micros + *midnight - kMicrosPerDay : zone->toInstant(micros)});
}

}  // namespace

void appendOffset(std::string& out, std::int64_t micros) {
    const std::int64_t minutes = std::abs(micros) / 60'000'000;
    out += fmt::format("{}{:02}:{:02}", micros < 0 ? '-' : '+', minutes / 60, minutes % 60);
}

TextFormat defaultFormat(const FieldSchema& field, bool isLink) {
    const bool names = field.primaryKeyRank > 0 || field.unique || isLink;
    return {.type = field.type,
            .use = field.use,
            .scale = field.scale,
            .grouped = !names,
            .spec = {},
            .locale = {},
            .zone = field.zone};
}

void appendDisplay(std::string& out, const Column& column, SourceRow row, const TextFormat& format) {
    if (column.isEmpty(row)) {
        if (const auto misfit = column.misfit(row)) out += *misfit;
        return;
    }
    switch (column.type()) {
        case Type::Real: appendReal(out, column.real(row), format.grouped); return;
        case Type::Text:
        case Type::Interval:
        case Type::NumberList: out += column.text(row); return;
        case Type::Binary:
            if (column.isUnread()) return appendUnread(out, column.unreadBytes(row), format.use);
            appendBinary(out, column.text(row));
            return;
        case Type::Decimal:
            if (column.isUnpadded()) return appendExact(out, unpadded(column.decimal(row)), format.grouped);
            if (column.isWide()) return appendExact(out, column.decimal(row), format.grouped);
            [[fallthrough]];
        case Type::Boolean:
        case Type::Integer:
        case Type::Date:
        case Type::Time:
        case Type::Timestamp:
        case Type::Instant: appendInteger(out, column.integer(row), format); return;
    }
}

void appendDisplay(std::string& out, const Value& value, const TextFormat& format) {
    struct Writer {
        std::string& out;
        const TextFormat& format;
        void operator()(Empty) const {}
        void operator()(bool v) const { out += v ? "yes" : "no"; }
        void operator()(std::int64_t v) const { appendNumber(out, v, 0, format.grouped); }
        void operator()(Decimal v) const { appendNumber(out, v.mantissa, v.scale, format.grouped); }
        void operator()(double v) const { appendReal(out, v, format.grouped); }
        void operator()(const std::string& v) const { out += v; }
        void operator()(Date v) const { appendDisplayDate(out, v.days); }
        void operator()(Time v) const { appendDisplayTime(out, v.micros); }
        void operator()(Timestamp v) const { appendDisplayTimestamp(out, v.micros); }
        void operator()(Instant v) const { appendDisplayInstant(out, v.micros, format.zone); }
        void operator()(const Bytes& v) const { appendBinary(out, v.data); }
        void operator()(const Unread& v) const { appendUnread(out, v.bytes, format.use); }
        void operator()(const WideDecimal& v) const { appendExact(out, v, format.grouped); }
        void operator()(const Unfit& v) const { out += v.text; }
    };
    std::visit(Writer{out, format}, value);
}

void appendPlain(std::string& out, const Value& value) {
    struct Writer {
        std::string& out;
        void operator()(Empty) const {}
        void operator()(bool v) const { out += v ? "true" : "false"; }
        void operator()(std::int64_t v) const { out += std::to_string(v); }
        void operator()(Decimal v) const { out += toString(v); }
        void operator()(double v) const { out += fmt::format("{}", v); }
        void operator()(const std::string& v) const { out += v; }
        void operator()(Date v) const { appendIsoDate(out, v.days); }
        void operator()(Time v) const { appendIsoTime(out, v.micros); }
        void operator()(Timestamp v) const { appendIsoTimestamp(out, v.micros); }
        void operator()(Instant v) const { appendIsoInstant(out, v.micros); }
        void operator()(const Bytes& v) const {
            for (const char c : v.data) out += fmt::format("{:02x}", static_cast<unsigned char>(c));
        }
        void operator()(const WideDecimal& v) const { out += toString(v); }
        void operator()(const Unread& v) const { appendUnread(out, v.bytes, Use::Plain); }
        void operator()(const Unfit& v) const { out += v.text; }
    };
    std::visit(Writer{out}, value);
}

std::string editText(const Value& value, const std::string& zone) {
    std::string out;
    if (std::holds_alternative<Instant>(value))
        appendDisplay(out, value, {.type = Type::Instant, .zone = zone});
    else if (std::holds_alternative<Date>(value) || std::holds_alternative<Timestamp>(value) ||
             std::holds_alternative<Time>(value))
        appendDisplay(out, value, {});
    else if (const bool* b = std::get_if<bool>(&value))
        out = *b ? "yes" : "no";
    else
        appendPlain(out, value);
    return out;
}

Result<Value> fittedDecimal(const WideDecimal& number, std::string_view typed, const FieldSchema& field) {
    // Without a stated size any scale will do that leaves the column's other values as they are.
    const auto fitted = field.openScale && unpadded(number).scale > field.scale ? std::optional(unpadded(number))
                                                                                : rescaledExactly(number, field.scale);
    if (!fitted)
        return refusal(unpadded(number).scale > field.scale
                           ? fmt::format("{} has more than {} decimals.", typed, field.scale)
                           : fmt::format("{} is too large for this column.", typed));
    if (field.precision > 0) {
        const Int128 most = widePower(std::min(field.precision, WideDecimal::kMaxScale));
        if (fitted->mantissa >= most || fitted->mantissa <= -most)
            return refusal(
                fmt::format("{} has more than {} digits before the point.", typed, field.precision - field.scale));
    }
    return narrowest(field.openScale ? unpadded(*fitted) : *fitted);
}

Result<Value> parseTyped(std::string_view typed, const FieldSchema& field) {
    const std::string_view text = field.type == Type::Text ? typed : bared(typed);
    if (text.empty()) {
        if (!field.required) return Value(Empty{});
        if (field.type == Type::Text) return refusal("This must not be empty.");
        return refusal(fmt::format("This must not be empty: type {}.", article(field.type)));
    }
    if (!field.permitted.empty()) {
        std::string plain(text);
        if (std::find(field.permitted.begin(), field.permitted.end(), plain) == field.permitted.end() &&
            field.type == Type::Text)
            return refusal(fmt::format("\"{}\" is not one of {}.", text, fmt::join(field.permitted, ", ")));
    }
    switch (field.type) {
        case Type::Boolean: return parseBoolean(text);
        case Type::Integer: return parseInteger(text);
        case Type::Decimal: return parseDecimalTyped(text, field);
        case Type::Real: return parseReal(text);
        case Type::Text: return parseText(text, field);
        case Type::Date: return parseDate(text);
        case Type::Time:
            if (const auto micros = parseIsoTime(text)) return Value(Time{*micros});
            return refusal(fmt::format("\"{}\" is not a time of day. Type it like 14:05.", text));
        case Type::Timestamp: return parseTimestamp(text);
        case Type::Instant: return parseInstant(text, field.zone);
        case Type::Interval:
            if (parseInterval(text)) return Value(std::string(text));
            return refusal(fmt::format("\"{}\" is not a span of time. Type it like 2 days 04:30 or 90 minutes.", text));
        case Type::Binary: return refusal("Binary data cannot be typed.");
        case Type::NumberList:
            if (auto list = numberListTyped(text)) return Value(std::move(*list));
            return refusal(fmt::format("\"{}\" is not a list of numbers. Type it like 4, 7.5, 12.", text));
    }
    return refusal("This column cannot be typed into.");
}

}  // namespace jollyrow
