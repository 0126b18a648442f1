// SPDX-License-Identifier: MIT
#pragma once
// All texts of the rule language that a design holds, wherever they stand; and what is renamed in them.

#include <functional>
#include <string>

#include "core/design/design.h"

namespace jollyrow {

/// Every rule and condition, empty ones too: of columns, filters, sorts and their rules, groups, summaries, operators,
/// faces with all their parts, styles, banners and checks.
void forEachRule(Design& design, const std::function<void(std::string& rule)>& visit);
void forEachRule(const Design& design, const std::function<void(const std::string& rule)>& visit);
/// The parameter, and `:from` in every rule and in the source's SELECT; not in quotes or comments. A rule that is no
/// SQL text stays as it is. O(size of the design).
void renameParameter(Design& design, const std::string& from, const std::string& to);
/// Some rule calls `name(…)`.
bool isCalled(const Design& design, const std::string& name);

}  // namespace jollyrow
