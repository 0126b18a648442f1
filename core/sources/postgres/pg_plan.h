// SPDX-License-Identifier: MIT
#pragma once
// What is asked of the server to load a binding: the SELECT, its parameters, the fields in its columns' order.

#include <string>
#include <vector>

#include "core/sources/postgres/pg_connection.h"
#include "core/sources/source.h"

namespace jollyrow::postgres {

struct LoadPlan {
    std::vector<bool> wanted;
    std::vector<FieldIndex> loaded, keyFields;
    std::string columns, from, order;  ///< of a table: what stands behind SELECT, FROM and (with it) ORDER BY
    std::string select;                ///< all of it
    std::vector<Parameter> parameters;
    bool isQuery = false;
};

Result<LoadPlan> planOf(Connection& connection, const TableSchema& schema, const LoadRequest& request,
                        const Cancel& cancel);

}  // namespace jollyrow::postgres
