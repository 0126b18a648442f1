// SPDX-License-Identifier: MIT
#pragma once
// Value <-> text. Two forms: display (for people: thin-space groups, a true minus, day and month by name) and
// plain (for machines: exact digits, ISO 8601). Parsing accepts both and says why it refuses.

#include <string>
#include <string_view>

#include "core/base/result.h"
#include "core/columns/column.h"
#include "core/columns/schema.h"
#include "core/columns/value.h"
#include "core/formats/format_spec.h"

namespace jollyrow {

/// How a column's values are written for people. A plain value; formatter.h makes patterns and locales of it work, the
/// functions below write the automatic form.
struct TextFormat {
    Type type = Type::Text;
    Use use = Use::Plain;
    int scale = 0;
    bool grouped = true;  ///< thousands set apart; off for keys and record numbers
    FormatSpec spec = {};
    std::string locale = {};  ///< BCP 47; "" = the automatic form above
    std::string zone = {};    ///< whose clocks show an Instant (TimeZone::named); "" = the machine's
    bool operator==(const TextFormat&) const = default;
};

/// The format a field has until the builder chooses one.
TextFormat defaultFormat(const FieldSchema& field, bool isLink);

/// Appends the display text; nothing when empty. Allocates only when `out` must grow.
void appendDisplay(std::string& out, const Column& column, SourceRow row, const TextFormat& format);
void appendDisplay(std::string& out, const Value& value, const TextFormat& format);

/// Appends exact digits, ISO dates, instants in UTC, "true"/"false"; Binary as lower-case hexadecimal. Nothing when
/// empty.
void appendPlain(std::string& out, const Value& value);

/// What the entry shows when a cell's editor opens: like display, without groups.
std::string editText(const Value& value, const std::string& zone = {});

/// An exact number as a value of a Decimal field; refused when digits would be lost. `typed` is quoted then.
Result<Value> fittedDecimal(const WideDecimal& number, std::string_view typed, const FieldSchema& field);

/// Minutes that local time is ahead of UTC: "+02:00".
void appendOffset(std::string& out, std::int64_t micros);

/// What was typed -> a value of the field's type. Blank is Empty, except in text columns that are required.
/// The message of a refusal names the field's kind of value and, where there is one, an example.
Result<Value> parseTyped(std::string_view typed, const FieldSchema& field);

}  // namespace jollyrow
