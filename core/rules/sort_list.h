// SPDX-License-Identifier: MIT
#pragma once
// A sort specification list as in SQL's ORDER BY: `due_on DESC NULLS LAST, EXTRACT(MONTH FROM booked_on), no`. Empties
// stand where PostgreSQL puts them unless NULLS FIRST or NULLS LAST says otherwise: last when ascending, first when
// descending.

#include <optional>
#include <string_view>
#include <vector>

#include "core/base/result.h"
#include "core/columns/schema.h"
#include "core/rules/sort_term.h"
#include "core/rules/syntax.h"

namespace jollyrow {

/// An unknown name is refused with the nearest known one; the error's range underlines it.
Result<std::vector<SortTerm>> parseSortList(std::string_view text, const TableSchema& schema,
                                            const RuleVocabulary& vocabulary = {});
/// The same list as levels to group by, whose values are shown: COLLATE, which only orders, is refused in it.
Result<std::vector<SortTerm>> parseGroupList(std::string_view text, const TableSchema& schema,
                                             const RuleVocabulary& vocabulary = {});
/// Why a rule can be no level of groups, apart from what makes it no rule.
std::optional<Error> whyNoGroups(const Syntax& rule);

}  // namespace jollyrow
