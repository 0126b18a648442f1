// SPDX-License-Identifier: MIT
// Covered by tests/sources/related_fields_test.cpp and tests/sources/related_test.cpp.
#include "core/sources/related_fields.h"

#include <algorithm>
#include <utility>

namespace jollyrow {

namespace {

/// True when at most one record can have these values, so that a join does not multiply the records.
bool isUniqueIn(const TableSchema& table, const std::vector<std::string>& fields) {
    std::vector<std::string> primary;
    for (const FieldSchema& field : table.fields)
        if (field.primaryKeyRank > 0) primary.push_back(field.name);
    const auto covers = [&](const std::vector<std::string>& key) {
        return !key.empty() && std::all_of(key.begin(), key.end(), [&](const std::string& name) {
            return std::find(fields.begin(), fields.end(), name) != fields.end();
        });
    };
    return covers(primary) || std::any_of(table.uniqueKeys.begin(), table.uniqueKeys.end(), covers);
}

constexpr int kMostJoins = 40;
constexpr std::size_t kMostSteps = 8;

}  // namespace

Result<void> addRelated(TableSchema& schema, const std::vector<std::string>& paths, const OtherTables& others) {
    const TableSchema own = schema;
    std::vector<TableSchema> tables;  // of the joins, in their order
    for (const Join& known : schema.joins) {
        auto table = others(known.table);
        if (!table && table.error().code != ErrorCode::NotFound) return table.error();
        tables.push_back(table ? std::move(*table) : TableSchema{});
    }
    for (const std::string& path : paths) {
        if (schema.find(path)) continue;
        int at = 0;
        std::size_t start = 0, steps = 0;
        for (std::size_t dot = path.find('.'); dot != std::string::npos && at >= 0; dot = path.find('.', start)) {
            const std::string link = path.substr(start, dot - start), prefix = path.substr(0, dot);
            start = dot + 1;
            const auto known =
                std::find_if(schema.joins.begin(), schema.joins.end(), [&](const Join& j) { return j.path == prefix; });
            if (known != schema.joins.end()) {
                at = static_cast<int>(known - schema.joins.begin()) + 1;
                continue;
            }
            const TableSchema& from = at == 0 ? own : tables[static_cast<std::size_t>(at) - 1];
            const auto key = std::find_if(from.foreignKeys.begin(), from.foreignKeys.end(), [&](const ForeignKey& k) {
                return (k.fields.size() == 1 && k.fields.front() == link) || (k.fields.size() > 1 && k.table == link);
            });
            const bool possible =
                key != from.foreignKeys.end() && schema.joins.size() < kMostJoins && ++steps <= kMostSteps;
            auto target = possible ? others(key->table) : Result<TableSchema>(Error{});
            if (possible && !target && target.error().code != ErrorCode::NotFound) return target.error();
            if (!target || target->isView || !isUniqueIn(*target, key->targetFields)) {
                at = -1;
                break;
            }
            schema.joins.push_back({prefix, key->table, at, key->fields, key->targetFields});
            tables.push_back(std::move(*target));
            at = static_cast<int>(schema.joins.size());
        }
        if (at <= 0) continue;
        const TableSchema& last = tables[static_cast<std::size_t>(at) - 1];
        const auto found = last.find(path.substr(start));
        if (!found) continue;
        FieldSchema field = last.field(*found);
        field.column = std::exchange(field.name, path);
        field.join = at;
        field.generated = true;
        field.required = field.unique = false;
        field.primaryKeyRank = 0;
        field.defaultSql.reset();
        if (field.use == Use::LookUp) field.use = Use::Plain;
        schema.fields.push_back(std::move(field));
    }
    return {};
}

std::string labelAmong(const std::vector<std::string>& texts) {
    std::string label;
    int best = 0;
    for (const std::string& text : texts) {
        const int weight = text == "name" || text == "title" || text == "label" ? 3 : text.ends_with("name") ? 2 : 1;
        if (weight <= best) continue;
        best = weight;
        label = text;
    }
    return label;
}

}  // namespace jollyrow
