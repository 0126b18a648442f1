// SPDX-License-Identifier: MIT
#pragma once
// The names of fields that a design holds, wherever they stand: a field that the database calls otherwise now is
// followed in all of them.

#include <string>

#include "core/design/design.h"

namespace jollyrow {

/// `from` is called `to`: of columns, tiers, sorts, filters, groups, summaries, styles, checks, faces with all their
/// parts, forms of reading; in every rule and every message pattern; also where it is the beginning of a path
/// ("vessel.name"), or is one itself. A rule that is no SQL text and the source's SELECT stay as they are, and so do
/// messages where the new name cannot stand in braces. O(size of the design).
void renameField(Design& design, const std::string& from, const std::string& to);

}  // namespace jollyrow
