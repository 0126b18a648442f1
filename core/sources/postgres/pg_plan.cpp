// SPDX-License-Identifier: MIT
#include "core/sources/postgres/pg_plan.h"

#include <fmt/format.h>

#include <set>

#include "core/rules/query_parameters.h"
#include "core/sources/postgres/pg_schema.h"
#include "core/sources/postgres/pg_values.h"

namespace jollyrow::postgres {
namespace {

/// As it stands in a SELECT; of data that stays in the database only how long it is.
std::string loadedSql(const FieldSchema& field, const std::string& column) {
    return field.unread ? fmt::format("octet_length({})::text", column) : selected(field, column);
}

}  // namespace

Result<LoadPlan> planOf(Connection& connection, const TableSchema& schema, const LoadRequest& request,
                        const Cancel& cancel) {
    LoadPlan plan;
    plan.isQuery = !request.binding.query.empty();
    plan.wanted = request.wanted;
    if (plan.wanted.size() != schema.fields.size()) {
        plan.wanted.assign(schema.fields.size(), true);
        for (std::size_t i = 0; i < schema.fields.size(); ++i) plan.wanted[i] = schema.fields[i].type != Type::Binary;
    }
    if (schema.writable) plan.keyFields = keyOf(schema);
    for (const FieldIndex field : plan.keyFields) plan.wanted[raw(field)] = true;
    std::string columns;
    std::vector<int> joins;
    for (std::size_t i = 0; i < schema.fields.size(); ++i) {
        if (!plan.wanted[i]) continue;
        const FieldSchema& field = schema.fields[i];
        plan.loaded.push_back(static_cast<FieldIndex>(i));
        // The columns of a SELECT by place: their names need not be ones.
        columns += (columns.empty() ? "" : ", ") +
                   loadedSql(field, plan.isQuery ? fmt::format("q.c{}", i + 1) : columnSql(field));
        if (field.join != 0) joins.push_back(field.join);
    }
    if (columns.empty()) columns = "NULL::text";
    if (plan.isQuery) {
        std::set<std::string> empty;
        for (const std::string& name : parametersIn(request.binding.query))
            if (const auto given = request.parameters.find(name);
                given == request.parameters.end() || isEmpty(given->second))
                empty.insert(name);
        const auto numbered = withNumbers(withoutConditionsOn(request.binding.query, empty));
        for (const std::string& name : numbered.names) {
            const auto given = request.parameters.find(name);
            plan.parameters.push_back(given == request.parameters.end() ? std::nullopt : encoded(given->second, {}));
        }
        std::string query = numbered.query;
        while (!query.empty() && (query.back() == ';' || query.back() == ' ' || query.back() == '\n')) query.pop_back();
        std::string names;
        for (std::size_t i = 0; i < schema.fields.size(); ++i) names += fmt::format("{}c{}", i == 0 ? "" : ", ", i + 1);
        plan.select = fmt::format("SELECT {} FROM ({}\n) AS q({})", columns, query, names);
        return plan;
    }
    auto from = fromSql(connection, schema, joins, cancel);
    if (!from) return from.error();
    plan.columns = std::move(columns);
    plan.from = std::move(*from);
    for (const FieldIndex field : keyOf(schema))
        plan.order += (plan.order.empty() ? " ORDER BY " : ", ") + columnSql(schema.field(field));
    plan.select = "SELECT " + plan.columns + " FROM " + plan.from + plan.order;
    return plan;
}

}  // namespace jollyrow::postgres
