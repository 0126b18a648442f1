// SPDX-License-Identifier: MIT
#pragma once
// Finding: something in a design that is wrong, or not as asked, against a schema or in its file. It never stops the
// design from opening. Where there is a sure way to put it right, mend() takes it.

#include <string>
#include <string_view>

namespace jollyrow {

enum class Severity {
    Note,     ///< kept and without effect
    Warning,  ///< works, not as asked
    Problem,  ///< a part of the design cannot be had
};

/// What one click would do about it.
enum class Mending {
    None,
    RenameField,    ///< take `fix` instead of `subject` wherever the design names it
    RemoveColumn,   ///< take the column `subject` out of the design
    RemoveSort,     ///< stop sorting by `subject`
    DropFormat,     ///< show the column `subject` by type
    RemoveTier,     ///< take the tier `subject` away
    RemoveFilter,   ///< take the condition whose rule is `subject` away
    AddParameter,   ///< define the parameter `subject`
    RemoveGroup,    ///< stop grouping by `subject`
    RemoveSummary,  ///< take the summary `subject` away
};

struct Finding {
    Severity severity = Severity::Warning;
    std::string where;    ///< "columns/due_on/width", as a path into the design file
    std::string message;  ///< what is wrong and what to do
    std::string fix;      ///< the value that would put it right, e.g. the likely new field name; may be empty
    Mending mending = Mending::None;
    std::string subject = {};  ///< the field or tier that the mending is about
    bool operator==(const Finding&) const = default;
};

std::string_view name(Severity severity);

struct Design;
/// Does what the finding proposes; false when it proposes nothing or nothing was left to do.
bool mend(Design& design, const Finding& finding);
/// Takes a summary out; groups that stood by it stand by their key again.
void removeSummary(Design& design, const std::string& name);
/// What mend() would do, in words for a button: "Use due_on"; "" for None.
std::string mendingWords(const Finding& finding);

}  // namespace jollyrow
