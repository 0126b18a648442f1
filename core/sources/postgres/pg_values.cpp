// SPDX-License-Identifier: MIT
// Covered by tests/sources/postgres_test.cpp, where the server says what its values are.
#include "core/sources/postgres/pg_values.h"

#include <fmt/format.h>

#include <bit>
#include <cmath>
#include <limits>

#include "core/columns/civil.h"
#include "core/columns/interval.h"
#include "core/columns/wide_decimal.h"
#include "core/formats/text_format.h"

namespace jollyrow::postgres {
namespace {

constexpr int kOpenScale = 6;              // decimals of exact numbers without a size, until values need more
constexpr std::int64_t kFirstDay = 10957;  // 2000-01-01, from which the server counts
constexpr std::int64_t kFirstMicro = kFirstDay * kMicrosPerDay;

template <class T>
T numberAt(std::string_view bytes, std::size_t at = 0) {
    std::make_unsigned_t<T> value = 0;
    for (std::size_t i = 0; i < sizeof(T); ++i)
        value = static_cast<std::make_unsigned_t<T>>((static_cast<std::uint64_t>(value) << 8) |
                                                     static_cast<unsigned char>(bytes[at + i]));
    return static_cast<T>(value);
}

/// numeric: digits to the base 10 000 after four numbers of 16 bits.
struct Numeric {
    static constexpr std::uint16_t kNegative = 0x4000, kNaN = 0xC000, kInfinite = 0xD000, kMinusInfinite = 0xF000;
    explicit Numeric(std::string_view all)
        : bytes(all),
          count(numberAt<std::int16_t>(all)),
          weight(numberAt<std::int16_t>(all, 2)),
          sign(numberAt<std::uint16_t>(all, 4)),
          decimals(numberAt<std::int16_t>(all, 6)) {}
    int digit(int i) const {
        return i < 0 || i >= count ? 0 : numberAt<std::int16_t>(bytes, 8 + static_cast<std::size_t>(i) * 2);
    }

    std::string_view bytes;
    int count, weight;
    std::uint16_t sign;
    int decimals;  ///< that it is shown with
};

/// Nothing past 38 digits.
std::optional<WideDecimal> exactOf(const Numeric& number) {
    if (number.sign != 0 && number.sign != Numeric::kNegative) return std::nullopt;
    constexpr int kMostGroups = 11;
    if (number.count > kMostGroups || number.weight > kMostGroups) return std::nullopt;
    Int128 mantissa = 0;
    int scale = 0;
    const int last = std::max(number.count - 1, number.weight);
    for (int i = 0; i <= last; ++i) {
        // Of the last group only the decimals that the number has: the zeros behind them might pass 38 digits.
        const int over = std::clamp((i - number.weight) * 4 - number.decimals, 0, 4);
        Int128 taken = 1, left = 1;
        for (int k = 0; k < 4; ++k) (k < over ? left : taken) *= 10;
        if (__builtin_mul_overflow(mantissa, taken, &mantissa) ||
            __builtin_add_overflow(mantissa, Int128(number.digit(i)) / left, &mantissa))
            return std::nullopt;
        if (i > number.weight) scale = std::min((i - number.weight) * 4, number.decimals);
    }
    if (number.sign == Numeric::kNegative) mantissa = -mantissa;
    if (scale > WideDecimal::kMaxScale) return std::nullopt;
    return rescaledExactly(WideDecimal(mantissa, scale), scale);  // of at most 38 digits
}

std::string textOf(const Numeric& number) {
    if (number.sign == Numeric::kNaN) return "NaN";
    if (number.sign == Numeric::kInfinite) return "Infinity";
    if (number.sign == Numeric::kMinusInfinite) return "-Infinity";
    std::string text = number.sign == Numeric::kNegative ? "-" : "";
    if (number.weight < 0) text += '0';
    for (int i = 0; i <= number.weight; ++i)
        text += i == 0 ? fmt::format("{}", number.digit(i)) : fmt::format("{:04}", number.digit(i));
    if (number.decimals == 0) return text;
    std::string behind;
    for (int i = number.weight + 1; static_cast<int>(behind.size()) < number.decimals; ++i)
        behind += i < 0 ? std::string("0000") : fmt::format("{:04}", number.digit(i));
    return text + "." + behind.substr(0, static_cast<std::size_t>(number.decimals));
}

/// Years that calendars here know.
bool isKnownDay(std::int64_t day) {
    constexpr std::int64_t kFirst = -719162, kLast = 2932896;  // 0001-01-01 and 9999-12-31
    return day >= kFirst && day <= kLast;
}

std::string oddDay(std::int64_t day) {
    if (day < std::numeric_limits<std::int32_t>::min() || day > std::numeric_limits<std::int32_t>::max())
        return fmt::format("day {}", day);
    const CivilDate date = civilFromDays(static_cast<std::int32_t>(day));
    return date.year > 0 ? fmt::format("{}-{:02}-{:02}", date.year, date.month, date.day)
                         : fmt::format("{:04}-{:02}-{:02} BC", 1 - date.year, date.month, date.day);
}

/// Days or microseconds since 1970, or what stands there instead.
struct Counted {
    std::int64_t value = 0;
    std::string odd = {};
};

Counted dayOf(std::string_view bytes) {
    const auto day = numberAt<std::int32_t>(bytes);
    if (day == std::numeric_limits<std::int32_t>::max()) return {0, "infinity"};
    if (day == std::numeric_limits<std::int32_t>::min()) return {0, "-infinity"};
    const std::int64_t ours = day + kFirstDay;
    return isKnownDay(ours) ? Counted{ours} : Counted{0, oddDay(ours)};
}

Counted momentOf(std::string_view bytes) {
    const auto micros = numberAt<std::int64_t>(bytes);
    if (micros == std::numeric_limits<std::int64_t>::max()) return {0, "infinity"};
    if (micros == std::numeric_limits<std::int64_t>::min()) return {0, "-infinity"};
    std::int64_t ours = 0;
    if (__builtin_add_overflow(micros, kFirstMicro, &ours)) return {0, "a moment out of reach"};
    const std::int64_t day = ours / kMicrosPerDay - (ours % kMicrosPerDay < 0 ? 1 : 0);
    if (isKnownDay(day)) return {ours};
    std::string time;
    appendIsoTime(time, ours - day * kMicrosPerDay);
    return {0, oddDay(day) + " " + time};
}

std::string hexOf(std::string_view bytes) {
    std::string out = "\\x";
    for (const char c : bytes) out += fmt::format("{:02x}", static_cast<unsigned char>(c));
    return out;
}

}  // namespace

void readType(FieldSchema& field, std::string_view name, int typmod, bool isArray, bool isEnum,
              const std::string& words) {
    field.declaredType = words;
    const auto is = [name](std::initializer_list<std::string_view> names) {
        return std::find(names.begin(), names.end(), name) != names.end();
    };
    constexpr int kHeader = 4;  // what typmods of texts and numbers count besides
    field.type = Type::Text;
    if (isArray) {
        if (is({"int2", "int4", "int8", "float4", "float8", "numeric"})) field.type = Type::NumberList;
    } else if (isEnum) {
        field.use = Use::Choice;
        field.ordered = true;
    } else if (is({"bool"})) {
        field.type = Type::Boolean;
    } else if (is({"int2", "int4", "int8", "oid"})) {
        field.type = Type::Integer;
    } else if (is({"float4", "float8"})) {
        field.type = Type::Real;
    } else if (is({"numeric"})) {
        field.type = Type::Decimal;
        const bool isSized = typmod >= kHeader;
        field.precision = isSized ? (typmod - kHeader) >> 16 : 0;
        const int stated = isSized ? (((typmod - kHeader) & 0x7ff) ^ 1024) - 1024 : 0;  // negative ones round tens
        field.scale = isSized ? std::max(0, stated) : kOpenScale;
        field.openScale = !isSized || field.scale > WideDecimal::kMaxScale;
        if (field.openScale) field.precision = 0, field.scale = kOpenScale;
    } else if (is({"money"})) {
        field.type = Type::Decimal;
        field.scale = 2;
    } else if (is({"varchar", "bpchar"})) {
        field.maxLength = typmod >= kHeader ? typmod - kHeader : 0;
    } else if (is({"date"})) {
        field.type = Type::Date;
    } else if (is({"time"})) {
        field.type = Type::Time;
    } else if (is({"timestamp"})) {
        field.type = Type::Timestamp;
    } else if (is({"timestamptz"})) {
        field.type = Type::Instant;
    } else if (is({"interval"})) {
        field.type = Type::Interval;
    } else if (is({"bytea"})) {
        field.type = Type::Binary;
    }
}

std::string selected(const FieldSchema& field, const std::string& column) {
    switch (field.type) {
        case Type::Boolean:
        case Type::Date:
        case Type::Time:
        case Type::Timestamp:
        case Type::Instant: return column;
        case Type::Integer: return column + "::int8";
        case Type::Decimal: return column + "::numeric";
        // A `real` as the double with its shortest text: 1004.3 is not 1004.2999877929688.
        case Type::Real: return field.declaredType == "real" ? column + "::text::float8" : column + "::float8";
        case Type::NumberList: return fmt::format("array_to_json({})::text", column);
        case Type::Binary: return column;
        case Type::Text:
        case Type::Interval: return column + "::text";
    }
    return column;
}

Value decode(const FieldSchema& field, std::string_view bytes) {
    const auto counted = [](const Counted& found, auto make) {
        return found.odd.empty() ? Value(make(found.value)) : Value(Unfit{found.odd, Stored::Text});
    };
    switch (field.type) {
        case Type::Boolean: return bytes[0] != 0;
        case Type::Integer: return numberAt<std::int64_t>(bytes);
        case Type::Real: return std::bit_cast<double>(numberAt<std::int64_t>(bytes));
        case Type::Decimal: {
            const Numeric number(bytes);
            auto exact = exactOf(number);
            if (exact && field.openScale) exact = unpadded(*exact);
            if (exact && !field.openScale) exact = rescaledExactly(*exact, field.scale);
            return exact ? narrowest(*exact) : Value(Unfit{textOf(number), Stored::Text});
        }
        case Type::Date:
            return counted(dayOf(bytes), [](std::int64_t day) { return Date{static_cast<std::int32_t>(day)}; });
        case Type::Time: return Time{numberAt<std::int64_t>(bytes)};
        case Type::Timestamp: return counted(momentOf(bytes), [](std::int64_t at) { return Timestamp{at}; });
        case Type::Instant: return counted(momentOf(bytes), [](std::int64_t at) { return Instant{at}; });
        case Type::Binary: return Bytes{std::string(bytes)};
        case Type::Interval:
            return parseInterval(bytes) ? Value(std::string(bytes)) : Value(Unfit{std::string(bytes), Stored::Text});
        case Type::Text:
        case Type::NumberList: return std::string(bytes);
    }
    return Empty{};
}

void decodeInto(ColumnChunk& chunk, const FieldSchema& field, std::string_view bytes) {
    const auto counted = [&chunk](const Counted& found) {
        found.odd.empty() ? chunk.addInteger(found.value) : chunk.addMisfit(found.odd);
    };
    switch (field.type) {
        case Type::Boolean: return chunk.addInteger(bytes[0] != 0 ? 1 : 0);
        case Type::Integer:
        case Type::Time: return chunk.addInteger(numberAt<std::int64_t>(bytes));
        case Type::Real: return chunk.addReal(std::bit_cast<double>(numberAt<std::int64_t>(bytes)));
        case Type::Decimal: {
            const Numeric number(bytes);
            const auto exact = exactOf(number);
            const auto scaled = exact ? rescaledExactly(*exact, field.scale) : std::nullopt;
            if (!scaled) return chunk.addMisfit(textOf(number));
            const auto narrow = static_cast<std::int64_t>(scaled->mantissa);
            return narrow == scaled->mantissa ? chunk.addInteger(narrow) : chunk.addWide(scaled->mantissa);
        }
        case Type::Date: return counted(dayOf(bytes));
        case Type::Timestamp:
        case Type::Instant: return counted(momentOf(bytes));
        case Type::Interval: return parseInterval(bytes) ? chunk.addText(bytes) : chunk.addMisfit(bytes);
        case Type::Binary:
        case Type::Text:
        case Type::NumberList: return chunk.addText(bytes);
    }
}

Parameter encoded(const Value& value, const FieldSchema& field) {
    if (isEmpty(value)) return std::nullopt;
    if (const auto* bytes = std::get_if<Bytes>(&value)) return hexOf(bytes->data);
    std::string text;
    appendPlain(text, value);
    if (field.type == Type::NumberList)  // JSON's brackets, of every level
        for (char& c : text) c = c == '[' ? '{' : c == ']' ? '}' : c;
    return text;
}

}  // namespace jollyrow::postgres
