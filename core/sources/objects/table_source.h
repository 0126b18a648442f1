// SPDX-License-Identifier: MIT
#pragma once
// A table in memory as a source: computed ones, e.g. a summary table, and their way into a database of their own.

#include <memory>
#include <string>

#include "core/sources/source.h"

namespace jollyrow {

/// Its one table is that of the schema's name; nothing can be written to it.
std::shared_ptr<const Source> tableSource(std::shared_ptr<const Table> table);

/// Makes an SQLite database with this table alone; an existing file is replaced when all is written. Decimals keep 15
/// significant digits there, as SQLite's numbers do. O(cells).
Result<void> writeTable(const Table& table, const std::string& path);

}  // namespace jollyrow
