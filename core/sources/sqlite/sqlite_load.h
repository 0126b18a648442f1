// SPDX-License-Identifier: MIT
#pragma once
// Loads all records of an SQLite table, view or SELECT into a Table, on two threads where row ids allow.

#include <memory>
#include <string>

#include "core/sources/source.h"

namespace jollyrow::sqlite {

/// One consistent state of the database, its schema included. A writer's lock is waited for kPatientMs. See
/// Source::load.
Result<std::shared_ptr<const Table>> loadTable(const std::string& path, const LoadRequest& request,
                                               const Cancel& cancel);

}  // namespace jollyrow::sqlite
