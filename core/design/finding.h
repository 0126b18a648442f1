// SPDX-License-Identifier: MIT
#pragma once
// Finding: something in a design that is wrong, or not as asked, against a schema or in its file. It never stops the
// design from opening.

#include <string>
#include <string_view>

namespace jollyrow {

enum class Severity {
    Note,     ///< kept and without effect
    Warning,  ///< works, not as asked
    Problem,  ///< a part of the design cannot be had
};

struct Finding {
    Severity severity = Severity::Warning;
    std::string where;    ///< "columns/due_on/width", as a path into the design file
    std::string message;  ///< what is wrong and what to do
    std::string fix;      ///< the value that would put it right, e.g. the likely new field name; may be empty
    bool operator==(const Finding&) const = default;
};

std::string_view name(Severity severity);

}  // namespace jollyrow
