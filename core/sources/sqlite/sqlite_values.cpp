// SPDX-License-Identifier: MIT
// Decimals: SQLite's NUMERIC affinity keeps '390.00' as 390 and '1184.10' as the double 1184.1. The shortest text of
// that double is the number that was written, unless it was computed (0.1 + 0.2) or SQLite's own reading missed the
// nearest double: then it is the decimal that its 15 digits say (decimalFromReal). Numbers kept as text are read digit
// by digit.
#include "core/sources/sqlite/sqlite_values.h"

#include <algorithm>
#include <bit>
#include <charconv>
#include <cmath>
#include <cstdlib>

#include "core/columns/civil.h"
#include "core/columns/date_pattern.h"
#include "core/columns/interval.h"
#include "core/columns/time_zone.h"
#include "core/sources/stored_forms.h"

namespace jollyrow::sqlite {

std::string_view textOf(sqlite3_value* value) {
    const auto* data = reinterpret_cast<const char*>(sqlite3_value_text(value));
    return data ? std::string_view(data, static_cast<std::size_t>(sqlite3_value_bytes(value))) : std::string_view{};
}

std::string_view bytesOf(sqlite3_value* value) {
    const auto* data = static_cast<const char*>(sqlite3_value_blob(value));
    return data ? std::string_view(data, static_cast<std::size_t>(sqlite3_value_bytes(value))) : std::string_view{};
}

namespace {

/// Decimals of exact numbers whose declaration names no size, unless their values need more.
constexpr int kOpenScale = 6;

std::string upper(std::string_view text) {
    std::string out(text);
    for (char& c : out) c = c >= 'a' && c <= 'z' ? static_cast<char>(c - 32) : c;
    return out;
}

/// The numbers in "(12, 2)"; missing ones stay 0.
void readSizes(std::string_view declared, int& first, int& second) {
    const std::size_t open = declared.find('(');
    if (open == std::string_view::npos) return;
    const char* p = declared.data() + open + 1;
    const char* end = declared.data() + declared.size();
    const auto skip = [&] {
        while (p < end && (*p == ' ' || *p == ',')) ++p;
    };
    skip();
    p = std::from_chars(p, end, first).ptr;
    skip();
    std::from_chars(p, end, second);
}

/// The integer a field of this type stores for a value, or nullopt when it does not fit.
std::optional<std::int64_t> integral(sqlite3_value* value, int storage, const FieldSchema& field) {
    switch (field.type) {
        case Type::Boolean: {
            if (storage == SQLITE_INTEGER) {
                const auto v = sqlite3_value_int64(value);
                return v == 0 || v == 1 ? std::optional(v) : std::nullopt;
            }
            const std::string text = upper(textOf(value));
            if (text == "TRUE" || text == "T") return 1;
            if (text == "FALSE" || text == "F") return 0;
            return std::nullopt;
        }
        case Type::Integer: {
            if (storage == SQLITE_INTEGER) return sqlite3_value_int64(value);
            const double v = storage == SQLITE_FLOAT ? sqlite3_value_double(value) : 0.5;
            return v == std::floor(v) && std::abs(v) < 9e15 ? std::optional(static_cast<std::int64_t>(v))
                                                            : std::nullopt;
        }
        case Type::Instant: return storage == SQLITE_TEXT ? parseIsoInstant(textOf(value)) : std::nullopt;
        case Type::Decimal:
        case Type::Date: {
            const std::string_view text = storage == SQLITE_TEXT ? textOf(value) : std::string_view{};
            if (const auto days = parseIsoDate(text)) return *days;
            const auto micros = parseIsoTimestamp(text);  // "2026-11-23 00:00:00" is a date too
            return micros && *micros % kMicrosPerDay == 0 ? std::optional(*micros / kMicrosPerDay) : std::nullopt;
        }
        case Type::Time: return storage == SQLITE_TEXT ? parseIsoTime(textOf(value)) : std::nullopt;
        case Type::Timestamp: return storage == SQLITE_TEXT ? parseIsoTimestamp(textOf(value)) : std::nullopt;
        case Type::Real:
        case Type::Text:
        case Type::Interval:
        case Type::Binary:
        case Type::NumberList: return std::nullopt;
    }
    return std::nullopt;
}

/// The same of a field whose values stand there in another form.
std::optional<std::int64_t> integralOf(sqlite3_value* value, int storage, const FieldSchema& field) {
    switch (field.stored.form) {
        case StoredForm::Seconds:
        case StoredForm::Milliseconds: {
            const std::int64_t unit = field.stored.form == StoredForm::Seconds ? 1'000'000 : 1000;
            if (storage == SQLITE_INTEGER) return instantFromCount(sqlite3_value_int64(value), unit);
            if (storage == SQLITE_FLOAT) return instantFromReal(sqlite3_value_double(value), unit);
            return instantFromDigits(textOf(value), unit);
        }
        case StoredForm::Pattern: return fromPattern(textOf(value), field);
        case StoredForm::Words: {
            const std::string_view text = textOf(value);
            if (text == field.stored.yes) return 1;
            return text == field.stored.no ? std::optional<std::int64_t>(0) : std::nullopt;
        }
        case StoredForm::Own:
        case StoredForm::Number: return integral(value, storage, field);
    }
    return std::nullopt;
}

/// The exact number of the field's scale that is stored, or nullopt when it is none.
std::optional<WideDecimal> exact(sqlite3_value* value, int storage, int scale) {
    if (storage == SQLITE_INTEGER) return rescaledExactly(WideDecimal{sqlite3_value_int64(value), 0}, scale);
    if (storage == SQLITE_FLOAT) return decimalFromReal(sqlite3_value_double(value), scale);
    const auto parsed = storage == SQLITE_TEXT ? parseWideDecimal(textOf(value)) : std::nullopt;
    return parsed ? rescaledExactly(*parsed, scale) : std::nullopt;
}
/// The same of a field whose numbers may be texts with a comma or groups.
std::optional<WideDecimal> exactOf(sqlite3_value* value, int storage, const FieldSchema& field) {
    if (field.stored.form != StoredForm::Number || storage != SQLITE_TEXT) return exact(value, storage, field.scale);
    const auto plain = plainNumber(textOf(value), field.stored.pattern);
    const auto parsed = plain ? parseWideDecimal(*plain) : std::nullopt;
    return parsed ? rescaledExactly(*parsed, field.scale) : std::nullopt;
}

/// A whole number is a double when the double is that number.
std::optional<double> real(sqlite3_value* value, int storage) {
    if (storage == SQLITE_FLOAT) return sqlite3_value_double(value);
    if (storage != SQLITE_INTEGER) return std::nullopt;
    const sqlite3_int64 whole = sqlite3_value_int64(value);
    const auto near = static_cast<double>(whole);
    constexpr sqlite3_int64 kExact = sqlite3_int64{1} << 53;
    if ((whole > kExact || whole < -kExact) && WideDecimal{whole, 0} != *shortestFromReal(near)) return std::nullopt;
    return near;
}

Stored storedAs(int storage) {
    switch (storage) {
        case SQLITE_INTEGER: return Stored::Integer;
        case SQLITE_FLOAT: return Stored::Real;
        case SQLITE_BLOB: return Stored::Blob;
        default: return Stored::Text;
    }
}
constexpr std::string_view kBinaryData = "binary data";
std::string_view wordsOf(sqlite3_value* value, int storage) {
    return storage == SQLITE_BLOB ? kBinaryData : textOf(value);
}

/// A decimal stored as a double, fast for the sizes money has: round(v * 10^scale) is right when it divides back.
std::optional<std::int64_t> quickDecimal(double value, int scale) {
    if (scale > 4 || std::abs(value) > 1e10) return std::nullopt;
    const auto factor = static_cast<double>(powerOfTen(scale));
    const double scaled = std::nearbyint(value * factor);
    // Two units in the last place are well within what 15 digits leave open.
    constexpr double kNoise = 4.4e-16;
    return std::abs(scaled / factor - value) <= std::abs(value) * kNoise
               ? std::optional(static_cast<std::int64_t>(scaled))
               : std::nullopt;
}

}  // namespace

void readDeclaredType(FieldSchema& field, std::string_view declared) {
    field.declaredType = declared;
    const std::string type = upper(declared);
    const auto has = [&type](std::string_view word) { return type.find(word) != std::string::npos; };
    int first = 0, second = 0;
    readSizes(type, first, second);
    if (has("BOOL")) {
        field.type = Type::Boolean;
    } else if (has("LIST") || has("[]")) {
        field.type = Type::NumberList;
    } else if (has("TIMESTAMPTZ") || (has("TIMESTAMP") && has("WITH TIME ZONE") && !has("WITHOUT"))) {
        field.type = Type::Instant;
    } else if (has("TIMESTAMP") || has("DATETIME")) {
        field.type = Type::Timestamp;
    } else if (has("DATE")) {
        field.type = Type::Date;
    } else if (has("TIME")) {
        field.type = Type::Time;
    } else if (has("INTERVAL")) {
        field.type = Type::Interval;
    } else if (has("INT") && !has("POINT")) {
        field.type = Type::Integer;
    } else if (has("DEC") || has("NUMERIC") || has("MONEY")) {
        field.type = Type::Decimal;
        field.precision = first;
        field.scale = std::clamp(second, 0, WideDecimal::kMaxScale);
        field.openScale = first == 0 && !has("MONEY");
        if (first == 0) field.scale = has("MONEY") ? 2 : kOpenScale;
    } else if (has("REAL") || has("FLOA") || has("DOUB")) {
        field.type = Type::Real;
    } else if (has("BLOB") || has("BINARY") || has("IMAGE")) {
        field.type = Type::Binary;
    } else {
        field.type = Type::Text;
        if (has("CHAR")) field.maxLength = first;
    }
}

void see(SeenValues& seen, sqlite3_value* value, const FieldSchema& field) {
    const int storage = sqlite3_value_type(value);
    seen.kinds |= 1U << storage;
    std::optional<WideDecimal> number;
    if (storage == SQLITE_FLOAT) {
        number = shortestFromReal(sqlite3_value_double(value));
        const auto plain = wideFromReal(sqlite3_value_double(value));  // without rounding noise, where it was noise
        if (plain && number && unpadded(*plain).scale + 2 < number->scale) number = unpadded(*plain);
    } else if (storage == SQLITE_TEXT) {
        const bool isForm = field.stored.form == StoredForm::Number;
        const auto plain = isForm ? plainNumber(textOf(value), field.stored.pattern) : std::string(textOf(value));
        number = plain ? parseWideDecimal(*plain) : std::nullopt;
        if (isForm && number)
            seen.decimals = seen.decimals < 0 ? number->scale : std::min(seen.decimals, number->scale);
    }
    if (number) seen.scale = std::max(seen.scale, unpadded(*number).scale);
}

namespace {

/// A count of seconds or milliseconds since 1970 that a date column holds is of the years 1973 to 5138: a smaller or
/// larger number is something else.
constexpr std::int64_t kLeastSeconds = 100'000'000, kLeastMilliseconds = 100'000'000'000,
                       kMostMilliseconds = 100'000'000'000'000;

void seeMoment(SeenValues& seen, sqlite3_value* value) {
    const int storage = sqlite3_value_type(value);
    if (storage == SQLITE_INTEGER || storage == SQLITE_FLOAT) {
        const double size = std::abs(sqlite3_value_double(value));
        seen.seconds += size >= kLeastSeconds && size < kLeastMilliseconds ? 1 : 0;
        seen.milliseconds += size >= kLeastMilliseconds && size < kMostMilliseconds ? 1 : 0;
        return;
    }
    const std::string_view text = textOf(value);
    const bool isInstant = parseIsoInstant(text).has_value();
    if (!isInstant && (text.size() <= 10 || !parseIsoTimestamp(text))) return;
    ++(isInstant ? seen.instants : seen.timestamps);
    seen.spaces += text[10] == ' ' ? 1 : 0;
    seen.offsets += isInstant && text.back() != 'Z' ? 1 : 0;
}

}  // namespace

bool fitMoment(FieldSchema& field, const SeenValues& seen) {
    if (!hasDay(field.type)) return false;
    const int texts = seen.instants + seen.timestamps;
    const StoredStyle iso{seen.spaces * 2 > texts, seen.offsets * 2 > seen.instants};
    const int own = field.type == Type::Instant ? seen.instants : seen.fitting;
    const int most = std::max({seen.instants, seen.timestamps, seen.seconds, seen.milliseconds});
    if (most <= own || most * 2 <= seen.values) {
        if (isMoment(field.type)) field.style = iso;
        return false;
    }
    if (most == seen.instants || most == seen.timestamps) {
        field.type = most == seen.instants ? Type::Instant : Type::Timestamp;
        field.style = iso;
        return true;
    }
    const ReadAs counted{most == seen.seconds ? StoredForm::Seconds : StoredForm::Milliseconds, {}, {}, {}};
    return readFieldAs(field, counted).ok();
}

void seeDeclared(SeenValues& seen, sqlite3_value* value, const FieldSchema& field) {
    const int storage = sqlite3_value_type(value);
    const bool isBlob = storage == SQLITE_BLOB;
    if (storage == SQLITE_NULL || (storage == SQLITE_TEXT && sqlite3_value_bytes(value) == 0)) return;
    seen.kinds |= 1U << storage;
    ++seen.values;
    const bool takesAny = field.type == Type::Binary || field.type == Type::Text || field.type == Type::NumberList;
    const bool fits =
        takesAny ? field.type == Type::Binary || !isBlob : !std::holds_alternative<Unfit>(decode(value, field));
    seen.fitting += fits ? 1 : 0;
    if (hasDay(field.type)) seeMoment(seen, value);
}

bool isBelieved(const SeenValues& seen, const FieldSchema& field) { return seen.fitting > 0 && !hasDay(field.type); }

bool contradicts(const SeenValues& seen) {
    constexpr int kMoreThanASlip = 3;
    return seen.values >= kMoreThanASlip && seen.fitting == 0 && std::has_single_bit(seen.kinds);
}

void fitTo(FieldSchema& field, const SeenValues& seen) {
    if (field.openScale) {
        field.scale = std::max(kOpenScale, seen.scale);
        field.style.decimals = std::max(field.style.decimals, seen.decimals);
        return;
    }
    const auto bit = [](int storage) { return 1U << storage; };
    const unsigned kinds = seen.kinds & ~bit(SQLITE_NULL);
    field.type = kinds == bit(SQLITE_INTEGER)                                              ? Type::Integer
                 : kinds != 0 && (kinds & ~(bit(SQLITE_FLOAT) | bit(SQLITE_INTEGER))) == 0 ? Type::Real
                 : kinds == bit(SQLITE_BLOB)                                               ? Type::Binary
                                                                                           : Type::Text;
}

bool decodeInto(ColumnChunk& chunk, sqlite3_value* value, const FieldSchema& field) {
    const int storage = sqlite3_value_type(value);
    const auto misfit = [&] {
        chunk.addMisfit(wordsOf(value, storage), storedAs(storage));
        return false;
    };
    if (storage == SQLITE_NULL) {
        chunk.addEmpty();
    } else if (field.type == Type::Text || field.type == Type::NumberList) {
        if (storage == SQLITE_BLOB) return misfit();
        chunk.addText(textOf(value));
    } else if (field.type == Type::Interval) {
        if (storage != SQLITE_TEXT || !parseInterval(textOf(value))) return misfit();
        chunk.addText(textOf(value));
    } else if (field.type == Type::Binary) {
        chunk.addText(bytesOf(value));
    } else if (field.type == Type::Real) {
        const auto read = real(value, storage);
        if (!read) return misfit();
        chunk.addReal(*read);
    } else if (storage == SQLITE_INTEGER && field.type == Type::Integer) {
        chunk.addInteger(sqlite3_value_int64(value));
    } else if (field.type == Type::Decimal) {
        if (storage == SQLITE_FLOAT)
            if (const auto mantissa = quickDecimal(sqlite3_value_double(value), field.scale)) {
                chunk.addInteger(*mantissa);
                return true;
            }
        const auto number = exactOf(value, storage, field);
        if (!number) return misfit();
        chunk.addWide(number->mantissa);
    } else {
        const auto fitted = storage == SQLITE_BLOB ? std::nullopt : integralOf(value, storage, field);
        if (!fitted) return misfit();
        chunk.addInteger(*fitted);
    }
    return true;
}

Value decode(sqlite3_value* value, const FieldSchema& field) {
    const int storage = sqlite3_value_type(value);
    if (storage == SQLITE_NULL) return Empty{};
    const auto misfit = [&]() -> Value { return Unfit{std::string(wordsOf(value, storage)), storedAs(storage)}; };
    switch (field.type) {
        case Type::Text:
        case Type::NumberList: return storage == SQLITE_BLOB ? misfit() : Value(std::string(textOf(value)));
        case Type::Interval:
            return storage == SQLITE_TEXT && parseInterval(textOf(value)) ? Value(std::string(textOf(value)))
                                                                          : misfit();
        case Type::Binary: return Bytes{std::string(bytesOf(value))};
        case Type::Real: {
            const auto read = real(value, storage);
            return read ? Value(*read) : misfit();
        }
        case Type::Decimal: {
            const auto number = exactOf(value, storage, field);
            return number ? narrowest(*number) : misfit();
        }
        default: break;
    }
    const auto fitted = storage == SQLITE_BLOB ? std::nullopt : integralOf(value, storage, field);
    if (!fitted) return misfit();
    if (field.type == Type::Boolean) return *fitted != 0;
    if (field.type == Type::Date) return Date{static_cast<std::int32_t>(*fitted)};
    if (field.type == Type::Time) return Time{*fitted};
    if (field.type == Type::Timestamp) return Timestamp{*fitted};
    if (field.type == Type::Instant) return Instant{*fitted};
    return *fitted;
}

namespace {
struct Binder {
    sqlite3_stmt* statement;
    int index;
    StoredStyle iso;
    std::string_view zone;
    Texts texts;
    sqlite3_destructor_type lifetime() const { return texts == Texts::Stay ? SQLITE_STATIC : SQLITE_TRANSIENT; }
    void text(const std::string& v) const {
        sqlite3_bind_text64(statement, index, v.data(), v.size(), SQLITE_TRANSIENT, SQLITE_UTF8);
    }
    /// An ISO 8601 date and time, with a space for the T where the table has them so.
    void moment(std::string text_) const {
        if (const std::size_t t = text_.find('T'); iso.space && t != std::string::npos) text_[t] = ' ';
        text(text_);
    }
    void operator()(Empty) const { sqlite3_bind_null(statement, index); }
    void operator()(bool v) const { sqlite3_bind_int(statement, index, v ? 1 : 0); }
    void operator()(std::int64_t v) const { sqlite3_bind_int64(statement, index, v); }
    void operator()(Decimal v) const { text(toString(v)); }
    void operator()(double v) const { sqlite3_bind_double(statement, index, v); }
    void operator()(const std::string& v) const {
        sqlite3_bind_text64(statement, index, v.data(), v.size(), lifetime(), SQLITE_UTF8);
    }
    void operator()(Date v) const {
        std::string out;
        appendIsoDate(out, v.days);
        text(out);
    }
    void operator()(Time v) const {
        std::string out;
        appendIsoTime(out, v.micros);
        text(out);
    }
    void operator()(Timestamp v) const {
        std::string out;
        appendIsoTimestamp(out, v.micros);
        moment(std::move(out));
    }
    void operator()(Instant v) const {
        const TimeZone* clocks = iso.offset ? TimeZone::named(zone) : nullptr;
        std::string out;
        if (clocks)
            appendZonedInstant(out, v.micros, *clocks);
        else
            appendIsoInstant(out, v.micros);
        moment(std::move(out));
    }
    void operator()(const Bytes& v) const {
        sqlite3_bind_blob64(statement, index, v.data.data(), v.data.size(), lifetime());
    }
    void operator()(const WideDecimal& v) const { text(toString(v)); }
    /// Requires: never written (whyNotTried).
    void operator()(const Unread&) const { sqlite3_bind_null(statement, index); }
    /// As it was stored. Requires: not a blob, of which only words are kept.
    void operator()(const Unfit& v) const {
        if (v.stored == Stored::Integer)
            sqlite3_bind_int64(statement, index, std::strtoll(v.text.c_str(), nullptr, 10));
        else if (v.stored == Stored::Real)
            sqlite3_bind_double(statement, index, std::strtod(v.text.c_str(), nullptr));
        else
            text(v.text);
    }
};
}  // namespace

void bindValue(sqlite3_stmt* statement, int index, const Value& value, const FieldSchema* field, Texts texts) {
    if (field)
        if (const auto stored = storedValue(value, *field)) return bindValue(statement, index, *stored, nullptr);
    std::visit(
        Binder{statement, index, field ? field->style : StoredStyle{}, field ? field->zone : std::string_view{}, texts},
        value);
}

}  // namespace jollyrow::sqlite
