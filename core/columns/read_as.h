// SPDX-License-Identifier: MIT
#pragma once
// ReadAs: how the values of a column stand in its table where neither its declaration nor the plain form of a type says
// it: dates as texts by a pattern, points of time as counts, numbers and yes or no as texts. Values are written back in
// the same form.

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

#include "core/base/result.h"

namespace jollyrow {

struct FieldSchema;

enum class StoredForm : std::uint8_t {
    Own,           ///< as its type is written: ISO 8601, digits, 0 and 1
    Pattern,       ///< texts of dates and times, by `pattern` (date_pattern.h)
    Seconds,       ///< counted from 1970-01-01 00:00 UTC (POSIX time)
    Milliseconds,  ///< the same
    Number,  ///< texts of exact numbers; `pattern` is the decimal sign, the other sign and spaces set groups apart
    Words,   ///< two texts, `yes` and `no`
};

struct ReadAs {
    StoredForm form = StoredForm::Own;
    std::string pattern = {};
    std::string yes = {}, no = {};
    std::string unknown = {};  ///< what a design file says that this version cannot follow, as JSON; kept
    bool operator==(const ReadAs&) const = default;
};

/// How a column's texts are written, where its form leaves a choice; found from its values.
struct StoredStyle {
    bool space = false;   ///< between day and time, for ISO 8601's T
    bool offset = false;  ///< "+02:00" of the zone, for the Z
    int decimals = 0;     ///< of numbers in texts: they have at least so many
    bool operator==(const StoredStyle&) const = default;
};

/// Sets the field's type and how it is stored. Fails when the pattern makes no sense, the sign is neither "." nor ",",
/// the words are empty or the same, or the field cannot be read so (binary data).
Result<void> readFieldAs(FieldSchema& field, const ReadAs& how);

/// Fails as readFieldAs does; for a design that is checked without its table.
Result<void> checkReadAs(const ReadAs& how);

/// "date dd.MM.yyyy", "seconds", "milliseconds", "number", "number ,", "words J N": for command lines.
Result<ReadAs> readAsFromText(std::string_view text);
std::string toText(const ReadAs& how);

/// The name in design files: "pattern", "seconds", "milliseconds", "number", "words"; "" for Own.
std::string_view name(StoredForm form);
std::optional<StoredForm> storedFormFromName(std::string_view name);

/// A text of the form Number, without groups and with a point: "1 234,5" by "," is "1234.5". nullopt when it is none.
std::optional<std::string> plainNumber(std::string_view text, std::string_view decimalSign);

}  // namespace jollyrow
