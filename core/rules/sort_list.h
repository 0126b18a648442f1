// SPDX-License-Identifier: MIT
#pragma once
// A sort specification list as in SQL's ORDER BY: `due_on DESC NULLS LAST, no`. Empties stand where PostgreSQL puts
// them unless NULLS FIRST or NULLS LAST says otherwise: last when ascending, first when descending.

#include <string_view>
#include <vector>

#include "core/base/result.h"
#include "core/columns/schema.h"
#include "core/columns/sort_key.h"

namespace jollyrow {

/// Column names only. An unknown name is refused with the nearest known one; the error's range underlines it.
Result<std::vector<SortKey>> parseSortList(std::string_view text, const TableSchema& schema);

}  // namespace jollyrow
