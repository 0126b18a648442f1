// SPDX-License-Identifier: MIT
#pragma once
// Checks of what is entered, and when it is saved. Plain values, kept in the design. Included by design.h.

#include <string>

namespace jollyrow {

/// A rule that an edited record must not break. As with CHECK in SQL, a rule whose value is empty is kept.
struct CheckDesign {
    std::string name;          ///< names it, unique among the checks
    std::string field = {};    ///< column that is at fault, and is not left while it is; "" = the record as a whole
    std::string rule;          ///< a condition
    std::string message = {};  ///< ICU message pattern over fields; "" = says that the rule is broken
    bool warning = false;      ///< may be overridden by whoever enters
    bool on = true;
    std::string unknown = {};  ///< keys of the file that this version does not know; kept
    bool operator==(const CheckDesign&) const = default;
};

/// When what was typed goes to the database.
enum class Saving {
    EachCell,    ///< as soon as a cell is left and its record breaks no check; new records when they are left
    EachRecord,  ///< when the record is left, or saved by hand
    Together,    ///< when all is saved by hand: every record or none
};

/// Where a new record is typed.
enum class EntryLinePlace {
    None,    ///< nowhere by itself: it is begun by a key, a menu or the application, and stands behind all others
    Top,     ///< a line under the headings; what is not saved yet stands before all others
    Bottom,  ///< a line at the foot; it stands behind them
};

}  // namespace jollyrow
