// SPDX-License-Identifier: MIT
#pragma once
// Fields of other tables that are reached by foreign keys, e.g. "vessel.owner.name": what a schema needs to have them.
// The same for every source.

#include <functional>
#include <string>
#include <vector>

#include "core/base/result.h"
#include "core/columns/table.h"

namespace jollyrow {

/// The schema of another table of the source.
using OtherTables = std::function<Result<TableSchema>(const std::string& table)>;

/// Adds the joins and fields that the paths need behind those of `schema`; paths that lead nowhere, or to more than one
/// record, add nothing. Fails when another table cannot be read, but for one that there is not (NotFound).
Result<void> addRelated(TableSchema& schema, const std::vector<std::string>& paths, const OtherTables& others);

/// Which of a table's texts, in its order, stands for its records: one called name, title or label, else one whose name
/// ends so, else the first; "" of none.
std::string labelAmong(const std::vector<std::string>& texts);

}  // namespace jollyrow
