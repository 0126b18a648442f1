// SPDX-License-Identifier: MIT
#pragma once
// FormatSpec: how a builder wants a column's values written, as plain values: what stands in the design file.
// Patterns are those of UTS #35 (CLDR); formatter.h makes them work.

#include <string>

namespace jollyrow {

enum class FormatStyle {
    Automatic,     ///< by type
    Pattern,       ///< UTS #35 number or date pattern ("#,##0.00", "EEE d MMM"), or a skeleton after "::"
    Message,       ///< ICU message pattern over any fields: "{vessel.name}, {hours, number, ::.0} h"
    Words,         ///< Boolean: two words, "paid;open"
    RelativeDays,  ///< dates near today: "tomorrow", "3 days ago"; `pattern` for the others
    Duration,      ///< a number of `unit`s as "h:mm" or another UTS #35 duration pattern
};

/// What one unit of a number means, for durations.
enum class DurationUnit { Seconds, Minutes, Hours, Days };

struct FormatSpec {
    FormatStyle style = FormatStyle::Automatic;
    std::string pattern;
    DurationUnit unit = DurationUnit::Hours;
    std::string prefix;        ///< stands before the formatted value
    std::string suffix;        ///< stands after it
    std::string empty = "–";   ///< shown where there is no value
    std::string unknown = {};  ///< keys of a design file that this version does not know; kept
    bool operator==(const FormatSpec&) const = default;
};

/// The spec that a pattern alone means: "" automatic, with {…} a message, else a pattern (words for a Boolean).
FormatSpec formatFor(std::string pattern, bool isBoolean);

}  // namespace jollyrow
