// SPDX-License-Identifier: MIT
#pragma once
// Loading from PostgreSQL: one transaction that sees one state, the schema included; the first records by themselves,
// then all of them by COPY, a large table on two connections, those of a SELECT by a cursor.

#include "core/sources/postgres/pg_connection.h"
#include "core/sources/source.h"

namespace jollyrow::postgres {

Result<std::shared_ptr<const Table>> loadTable(Connection& connection, const LoadRequest& request,
                                               const Cancel& cancel);

}  // namespace jollyrow::postgres
