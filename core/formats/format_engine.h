// SPDX-License-Identifier: MIT
#pragma once
// Inside of the formats room: ICU's objects behind a Formatter, and the checks of patterns before ICU sees them.

#include <unicode/decimfmt.h>
#include <unicode/msgfmt.h>
#include <unicode/numberformatter.h>
#include <unicode/reldatefmt.h>
#include <unicode/smpdtfmt.h>

#include <mutex>
#include <optional>
#include <vector>

#include "core/formats/formatter.h"

namespace jollyrow {

/// A unit of a duration pattern, with the literal text before it.
struct DurationPiece {
    std::string literal;
    std::int64_t seconds = 0;  ///< of one; 0 for the literal at the end
    int digits = 1;            ///< at least as many
};

/// A field in a message. An argument with a type ("hours, number") gets a value, one without the field's own text.
struct MessageArgument {
    icu::UnicodeString name;
    FieldIndex field{};
    FieldIndex shown{};
    TextFormat plain;  ///< of `shown`
    bool typed = false;
};

struct Formatter::Engine {
    std::optional<icu::number::LocalizedNumberFormatter> number;
    std::unique_ptr<icu::DecimalFormat> decimal;  ///< reads typed numbers; guarded by mutex
    std::unique_ptr<icu::SimpleDateFormat> date;  ///< writing is const; reading guarded by mutex
    bool dateHasYear = true;
    std::unique_ptr<icu::RelativeDateTimeFormatter> relative;
    std::unique_ptr<icu::MessageFormat> message;  ///< guarded by mutex
    std::vector<MessageArgument> arguments;
    std::string yes, no;
    std::vector<DurationPiece> pieces;
    mutable std::mutex mutex;
};

/// Fills an engine for a style; fails with what is wrong in the pattern and where.
Result<void> prepareNumber(Formatter::Engine& engine, const TextFormat& format);
/// The zone that a column's dates and times are computed in: an Instant's own, else none.
std::unique_ptr<icu::TimeZone> zoneFor(const TextFormat& format);
Result<void> prepareDate(Formatter::Engine& engine, const TextFormat& format);
Result<void> prepareMessage(Formatter::Engine& engine, const TextFormat& format, const TableSchema& schema,
                            const Formatter::FindField& find);
Result<void> prepareWords(Formatter::Engine& engine, const TextFormat& format);
Result<void> prepareDuration(Formatter::Engine& engine, const TextFormat& format);

icu::Locale icuLocale(const std::string& locale);
/// Byte offset in `pattern` of an index that ICU gave in UTF-16.
std::size_t byteOffset(std::string_view pattern, std::int32_t utf16);

}  // namespace jollyrow
