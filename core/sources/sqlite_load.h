// SPDX-License-Identifier: MIT
#pragma once
// Loads all records of an SQLite table, view or SELECT into a Table, on two threads where row ids allow.

#include <memory>
#include <string>

#include "core/sources/source.h"

namespace jollyrow::sqlite {

/// `schema` is what readTableSchema or readQuerySchema gave for the request's binding. See Source::load.
Result<std::shared_ptr<const Table>> loadTable(const std::string& path, const TableSchema& schema,
                                               const LoadRequest& request, const Cancel& cancel);

}  // namespace jollyrow::sqlite
