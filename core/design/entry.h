// SPDX-License-Identifier: MIT
#pragma once
// What a column's values are entered with. Plain values, kept in the design. Included by design.h.

#include <string>

namespace jollyrow {

enum class EntryKind {
    Automatic,  ///< by the field: a calendar, a list of choices, a look-up, several lines where texts wrap, else a line
    Line,       ///< one line, whatever the field is
    Lines,      ///< several lines of a text
    Rating,     ///< a whole number from 0 to `most`, set by a click on one of so many marks
    Colour,     ///< a text "#rrggbb", chosen from colours or typed
};

struct EntryDesign {
    static constexpr int kMostMarks = 10;
    EntryKind kind = EntryKind::Automatic;
    int most = 5;  ///< of a rating
    /// A regular expression (UTS #18, as ICU has it) that a text must match as a whole; "" = anything. What can no
    /// longer match is not taken while typing, and what alone can follow is filled in.
    std::string pattern = {};
    bool adds = false;  ///< of a look-up: what is typed and not found may become a new record of the other table
    std::string unknown = {};  ///< keys of the file that this version does not know; kept
    bool operator==(const EntryDesign&) const = default;
};

}  // namespace jollyrow
