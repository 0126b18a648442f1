// SPDX-License-Identifier: MIT
#pragma once
// Loading a large table with a whole number as its key on two connections that see one state of it (PostgreSQL's
// documentation, 9.27.5, pg_export_snapshot): each takes the next range of keys, and the ranges are put in order.

#include <cstdint>
#include <memory>
#include <optional>
#include <string>

#include "core/sources/postgres/pg_connection.h"
#include "core/sources/postgres/pg_plan.h"
#include "core/sources/source.h"

namespace jollyrow::postgres {

struct KeyRanges {
    std::string key;  ///< as it stands in the SELECT
    std::int64_t low = 0, high = 0;
    int count = 0;  ///< of about the same number of keys each
    std::int64_t aboutRows = 0;
};

/// nullopt: the table is small, or its key is not one whole number. Requires: a transaction that sees one state.
Result<std::optional<KeyRanges>> rangesOf(Connection& connection, const TableSchema& schema, const LoadPlan& plan,
                                          const Cancel& cancel);

/// All records of the ranges. Opens the second connection; where there is none to be had, one does it all.
Result<std::shared_ptr<const Table>> loadRanges(Connection& connection, const TableSchema& schema, const LoadPlan& plan,
                                                const LoadRequest& request, const KeyRanges& ranges,
                                                const Cancel& cancel);

}  // namespace jollyrow::postgres
