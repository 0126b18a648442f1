// SPDX-License-Identifier: MIT
#pragma once
// What is typed into a filter row, as a condition on its column: `> 4`, `2..8`, `Otter*`, `*hull*`, `Quoted, Booked`,
// `empty`, `not empty`, `not Done`, `today`, `this week`, or just a value, which means by type: contains for texts, is
// for the rest. Values are read as the column's format writes them, or in plain form.

#include <string>
#include <string_view>

#include "core/base/result.h"
#include "core/design/condition.h"
#include "core/design/plan.h"

namespace jollyrow {

/// Blanks alone give a group without children: no condition. Errors carry the place in `entry` and name what is
/// expected. O(length).
Result<Condition> conditionFromEntry(std::string_view entry, const Design& design, const TableSchema& schema,
                                     const std::string& field);
/// How an entry would be typed; "" when a filter row has no form for the condition.
std::string entryOf(const Condition& condition, const Design& design, const TableSchema& schema);
/// The operator mark an idle cell shows: "=", "…a…".
std::string idleMark(Type type, Use use);

}  // namespace jollyrow
