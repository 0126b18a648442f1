// SPDX-License-Identifier: MIT
// Covered by tests/sources/postgres_test.cpp.
#include "core/sources/postgres/pg_schema.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "core/base/near_name.h"
#include "core/columns/time_zone.h"
#include "core/columns/wide_decimal.h"
#include "core/pictures/picture_kind.h"
#include "core/rules/query_parameters.h"
#include "core/sources/postgres/pg_values.h"
#include "core/sources/related_fields.h"

namespace jollyrow::postgres {
namespace {

std::vector<std::string> listOf(const std::string& json) {
    const auto parsed = nlohmann::json::parse(json, nullptr, false);
    return parsed.is_array() ? parsed.get<std::vector<std::string>>() : std::vector<std::string>();
}

struct Relation {
    std::string oid, sql, name;
    char kind = 'r';
    bool mayWrite = false;
};

/// The type behind domains, and the typmod that the innermost stated one gives.
constexpr const char* kBaseType =
    "LATERAL (WITH RECURSIVE d(oid, mod, depth) AS (SELECT {0}::oid, {1}::int4, 0 UNION ALL SELECT y.typbasetype, "
    "CASE WHEN y.typtypmod <> -1 THEN y.typtypmod ELSE d.mod END, d.depth + 1 FROM d JOIN pg_type y ON y.oid = d.oid "
    "WHERE y.typtype = 'd') SELECT oid, mod FROM d ORDER BY depth DESC LIMIT 1) AS base "
    "JOIN pg_type b ON b.oid = base.oid LEFT JOIN pg_type e ON e.oid = b.typelem AND b.typcategory = 'A' ";
constexpr const char* kTypeColumns =
    "coalesce(e.typname, b.typname)::text, base.mod, e.oid IS NOT NULL, b.typtype = 'e', "
    "(SELECT coalesce(json_agg(l.enumlabel::text ORDER BY l.enumsortorder), '[]')::text FROM pg_enum l WHERE "
    "l.enumtypid = b.oid), ";

Result<Relation> relationOf(Connection& connection, const std::string& table, const Cancel& cancel) {
    auto found = connection.run(
        "SELECT c.oid::text, format('%I.%I', n.nspname, c.relname), CASE WHEN pg_table_is_visible(c.oid) THEN "
        "c.relname::text ELSE n.nspname || '.' || c.relname END, c.relkind::text, has_table_privilege(c.oid, 'UPDATE') "
        "OR has_any_column_privilege(c.oid, 'UPDATE') FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace "
        "WHERE c.relkind IN ('r', 'p', 'v', 'm', 'f') AND CASE WHEN to_regclass(quote_ident($1)) IS NULL THEN "
        "n.nspname "
        "|| '.' || c.relname = $1 ELSE c.oid = to_regclass(quote_ident($1)) END",
        {table}, cancel);
    if (!found) return found.error();
    if (found->rows() == 1)
        return Relation{found->text(0, 0), found->text(0, 1), found->text(0, 2), found->text(0, 3)[0],
                        found->isTrue(0, 4)};
    std::vector<std::string> names;
    if (auto all = readTables(connection, cancel))
        for (const TableSummary& one : *all) names.push_back(one.name);
    const auto near = nearestName(table, names);
    return Error{ErrorCode::NotFound,
                 fmt::format("There is no table or view {} in {}.{}", table, pq().PQdb(connection.get()),
                             near ? fmt::format(" Did you mean {}?", *near) : "")};
}

/// A default as it was written: the server adds the type to a literal, 'Quoted'::character varying.
std::string withoutCast(std::string sql) {
    const std::size_t cast = sql.rfind("'::");
    if (sql.starts_with('\'') && cast != std::string::npos && cast > 0 && sql.find('\'', cast + 1) == std::string::npos)
        sql.resize(cast + 1);
    return sql;
}

Result<void> readFields(Connection& connection, const Relation& relation, TableSchema& schema, const Cancel& cancel) {
    auto fields = connection.run(
        fmt::format("SELECT a.attname::text, {}format_type(a.atttypid, a.atttypmod), a.attnotnull, "
                    "pg_get_expr(f.adbin, f.adrelid), a.attidentity::text, a.attgenerated::text, "
                    "has_column_privilege(a.attrelid, a.attnum, 'UPDATE'), col_description(a.attrelid, a.attnum) FROM "
                    "pg_attribute a LEFT JOIN pg_attrdef f ON "
                    "f.adrelid = a.attrelid AND f.adnum = a.attnum, {}WHERE a.attrelid = $1::oid AND a.attnum > 0 AND "
                    "NOT a.attisdropped AND has_column_privilege(a.attrelid, a.attnum, 'SELECT') ORDER BY a.attnum",
                    kTypeColumns, fmt::format(fmt::runtime(kBaseType), "a.atttypid", "a.atttypmod")),
        {relation.oid}, cancel);
    if (!fields) return fields.error();
    for (int i = 0; i < fields->rows(); ++i) {
        FieldSchema field;
        field.name = fields->text(i, 0);
        readType(field, fields->text(i, 1), static_cast<int>(fields->integer(i, 2)), fields->isTrue(i, 3),
                 fields->isTrue(i, 4), fields->text(i, 6));
        field.permitted = listOf(fields->text(i, 5));
        field.required = fields->isTrue(i, 7);
        const bool isGenerated = !fields->text(i, 10).empty();
        if (!fields->isNull(i, 8) && !isGenerated) field.defaultSql = withoutCast(fields->text(i, 8));
        if (!fields->text(i, 9).empty()) field.defaultSql = "GENERATED AS IDENTITY";
        // What this role may not write is as good as made by the database.
        field.generated = isGenerated || fields->text(i, 9) == "a" || (relation.mayWrite && !fields->isTrue(i, 11));
        if (!fields->isNull(i, 12)) field.comment = fields->text(i, 12);
        const std::string& name = field.name;
        const auto has = [&name](const char* part) { return name.find(part) != std::string::npos; };
        if (field.type == Type::Binary && (has("picture") || has("photo") || has("image"))) field.use = Use::Picture;
        if (field.type == Type::Text && field.maxLength == 0 && field.use == Use::Plain &&
            (has("note") || has("comment") || has("description")))
            field.use = Use::LongText;
        schema.fields.push_back(std::move(field));
    }
    if (schema.fields.empty())
        return Error{ErrorCode::ReadOnly, fmt::format("You may not read any column of {}.", schema.name)};
    return {};
}

FieldSchema* fieldCalled(TableSchema& schema, const std::string& name) {
    const auto found = schema.find(name);
    return found ? &schema.fields[raw(*found)] : nullptr;
}

Result<void> readKeys(Connection& connection, const Relation& relation, TableSchema& schema, const Cancel& cancel) {
    auto keys = connection.run(
        "SELECT i.indisprimary, (SELECT json_agg(a.attname::text ORDER BY k.place)::text FROM "
        "unnest(i.indkey::int2[]) WITH ORDINALITY AS k(attnum, place) JOIN pg_attribute a ON a.attrelid = i.indrelid "
        "AND "
        "a.attnum = k.attnum WHERE k.place <= i.indnkeyatts) FROM pg_index i WHERE i.indrelid = $1::oid AND "
        "i.indisunique AND i.indisvalid AND i.indpred IS NULL AND i.indexprs IS NULL ORDER BY i.indisprimary DESC, "
        "i.indexrelid",
        {relation.oid}, cancel);
    if (!keys) return keys.error();
    for (int i = 0; i < keys->rows(); ++i) {
        const std::vector<std::string> names = listOf(keys->text(i, 1));
        const bool areSeen = std::all_of(names.begin(), names.end(), [&](const auto& n) { return schema.find(n); });
        if (names.empty() || !areSeen) continue;
        if (keys->isTrue(i, 0))
            for (std::size_t k = 0; k < names.size(); ++k)
                fieldCalled(schema, names[k])->primaryKeyRank = static_cast<int>(k) + 1;
        if (names.size() == 1) fieldCalled(schema, names.front())->unique = true;
        schema.uniqueKeys.push_back(names);
    }
    return {};
}

/// The target's fields that could stand for its records, and the one that does.
Result<void> describeTarget(Connection& connection, const std::string& oid, ForeignKey& link, const Cancel& cancel) {
    auto fields = connection.run(
        fmt::format("SELECT a.attname::text, {}'' FROM pg_attribute a, {}WHERE a.attrelid = $1::oid AND a.attnum > 0 "
                    "AND NOT a.attisdropped AND has_column_privilege(a.attrelid, a.attnum, 'SELECT') ORDER BY a.attnum",
                    kTypeColumns, fmt::format(fmt::runtime(kBaseType), "a.atttypid", "a.atttypmod")),
        {oid}, cancel);
    if (!fields) return fields.error();
    std::vector<std::string> texts;
    for (int i = 0; i < fields->rows(); ++i) {
        FieldSchema field;
        readType(field, fields->text(i, 1), static_cast<int>(fields->integer(i, 2)), fields->isTrue(i, 3),
                 fields->isTrue(i, 4), {});
        if (field.type == Type::Binary || field.type == Type::NumberList) continue;
        link.targetChoices.push_back(fields->text(i, 0));
        if (field.type == Type::Text) texts.push_back(fields->text(i, 0));
    }
    link.label = labelAmong(texts);
    return {};
}

Result<void> readForeignKeys(Connection& connection, const Relation& relation, TableSchema& schema,
                             const Cancel& cancel) {
    auto links = connection.run(
        "SELECT c.confrelid::text, CASE WHEN pg_table_is_visible(r.oid) THEN r.relname::text ELSE n.nspname || '.' || "
        "r.relname END, (SELECT json_agg(a.attname::text ORDER BY k.place)::text FROM unnest(c.conkey) WITH ORDINALITY "
        "AS k(attnum, place) JOIN pg_attribute a ON a.attrelid = c.conrelid AND a.attnum = k.attnum), "
        "(SELECT json_agg(a.attname::text ORDER BY k.place)::text FROM unnest(c.confkey) WITH ORDINALITY AS "
        "k(attnum, place) JOIN pg_attribute a ON a.attrelid = c.confrelid AND a.attnum = k.attnum) FROM pg_constraint "
        "c "
        "JOIN pg_class r ON r.oid = c.confrelid JOIN pg_namespace n ON n.oid = r.relnamespace WHERE c.conrelid = "
        "$1::oid AND c.contype = 'f' ORDER BY c.conkey",
        {relation.oid}, cancel);
    if (!links) return links.error();
    for (int i = 0; i < links->rows(); ++i) {
        ForeignKey link{listOf(links->text(i, 2)), links->text(i, 1), listOf(links->text(i, 3))};
        if (auto read = describeTarget(connection, links->text(i, 0), link, cancel); !read) return read;
        if (link.fields.size() == 1)
            if (FieldSchema* field = fieldCalled(schema, link.fields.front())) field->use = Use::LookUp;
        schema.foreignKeys.push_back(std::move(link));
    }
    return {};
}

/// "status::text = ANY (ARRAY['Quoted'::text, 'Done'::text])", as the server writes x IN (…) of a text: the permitted
/// values. Anything else says nothing here.
void readPermitted(const std::string& check, TableSchema& schema) {
    const std::size_t any = check.find(" = ANY (");
    const std::size_t array = any == std::string::npos ? any : check.find("ARRAY[", any);
    if (array == std::string::npos || check.find(" = ANY (", any + 1) != std::string::npos) return;
    std::string name = check.substr(0, any);
    name.erase(0, name.find_first_not_of('('));
    name = name.substr(0, std::min(name.find(')'), name.find("::")));
    if (name.size() > 1 && name.front() == '"') name = name.substr(1, name.size() - 2);
    FieldSchema* field = fieldCalled(schema, name);
    if (!field || field->type != Type::Text) return;
    std::vector<std::string> values;
    std::size_t at = array + 6;
    while (at < check.size() && check[at] != ']') {
        if (check[at] != '\'') {
            ++at;
            continue;
        }
        std::string value;
        for (++at; at < check.size(); ++at) {
            if (check[at] == '\'' && (at + 1 >= check.size() || check[++at] != '\'')) break;
            value += check[at];
        }
        values.push_back(std::move(value));
    }
    const std::string_view behind = std::string_view(check).substr(std::min(at, check.size()));
    if (behind.find(" AND ") != behind.npos || behind.find(" OR ") != behind.npos || values.empty()) return;
    field->permitted = std::move(values);
    field->use = Use::Choice;
}

Result<void> readChecks(Connection& connection, const Relation& relation, TableSchema& schema, const Cancel& cancel) {
    auto checks = connection.run(
        "SELECT pg_get_expr(conbin, conrelid, true) FROM pg_constraint WHERE conrelid = $1::oid AND contype = 'c' "
        "ORDER BY "
        "conname",
        {relation.oid}, cancel);
    if (!checks) return checks.error();
    for (int i = 0; i < checks->rows(); ++i) {
        schema.checks.push_back(checks->text(i, 0));
        readPermitted(schema.checks.back(), schema);
    }
    return {};
}

/// Binary data is pictures when the first values are, whatever its name says.
Result<void> seePictures(Connection& connection, const Relation& relation, TableSchema& schema, const Cancel& cancel) {
    for (FieldSchema& field : schema.fields) {
        if (field.type != Type::Binary) continue;
        auto some =
            connection.run(fmt::format("SELECT substring({0} FROM 1 FOR 512) FROM {1} WHERE {0} IS NOT NULL LIMIT 4",
                                       quotedName(field.name), relation.sql),
                           {}, cancel);
        if (!some) return some.error();
        int pictures = 0;
        for (int i = 0; i < some->rows(); ++i) pictures += pictureKind(some->bytes(i, 0)) ? 1 : 0;
        if (some->rows() > 0 && pictures == some->rows()) field.use = Use::Picture;
        if (some->rows() > 0 && pictures == 0 && field.use == Use::Picture) field.use = Use::Plain;
    }
    return {};
}

void sayWhetherWritable(const Relation& relation, TableSchema& schema) {
    schema.isView = relation.kind == 'v' || relation.kind == 'm';
    const auto cannot = [&schema](const std::string& why) {
        schema.writable = false;
        schema.whyNotWritable = why;
    };
    if (schema.isView)
        cannot(fmt::format("{} is a view; edit the tables it is made of.", schema.name));
    else if (!relation.mayWrite)
        cannot(fmt::format("You may read {} and not change it: the server gives this role no right to.", schema.name));
    else if (keyOf(schema).empty())
        cannot(fmt::format("{} has no key, so no record of it can be told from others.", schema.name));
}

Result<TableSchema> readQuerySchema(Connection& connection, const std::string& query, const Cancel& cancel) {
    const auto numbered = withNumbers(query);
    PGconn* handle = connection.get();
    const Answer made(pq().PQprepare(handle, "", numbered.query.c_str(), 0, nullptr));
    const auto refused = [](const PGresult* result) {
        const char* said = pq().PQresultErrorField(result, PG_DIAG_MESSAGE_PRIMARY);
        return Error{ErrorCode::InvalidInput, fmt::format("The SELECT cannot be used: {}.", said ? said : "")};
    };
    if (pq().PQresultStatus(made.get()) != PGRES_COMMAND_OK) return refused(made.get());
    const Answer described(pq().PQdescribePrepared(handle, ""));
    if (pq().PQresultStatus(described.get()) != PGRES_COMMAND_OK) return refused(described.get());
    if (described.columns() == 0)
        return Error{ErrorCode::InvalidInput,
                     "Only a SELECT can be bound: this statement would change the database or returns no rows."};
    TableSchema schema;
    schema.name = "query";
    schema.isView = true;
    schema.writable = false;
    schema.whyNotWritable = "The records come from a SELECT; bind to a table to edit them.";
    for (int i = 0; i < described.columns(); ++i) {
        FieldSchema field;
        field.name = pq().PQfname(described.get(), i);
        if (field.name.empty() || field.name == "?column?") field.name = fmt::format("column_{}", i + 1);
        const std::string plain = field.name;
        for (int copies = 2; schema.find(field.name); ++copies) field.name = fmt::format("{}_{}", plain, copies);
        auto type = connection.run(
            fmt::format("SELECT {}format_type($1::oid, $2::int4) FROM {}", kTypeColumns,
                        fmt::format(fmt::runtime(kBaseType), "$1", "$2")),
            {std::to_string(pq().PQftype(described.get(), i)), std::to_string(pq().PQfmod(described.get(), i))},
            cancel);
        if (!type) return type.error();
        if (type->rows() == 1) {
            readType(field, type->text(0, 0), static_cast<int>(type->integer(0, 1)), type->isTrue(0, 2),
                     type->isTrue(0, 3), type->text(0, 5));
            field.permitted = listOf(type->text(0, 4));
        }
        schema.fields.push_back(std::move(field));
    }
    return schema;
}

void leavePictures(TableSchema& schema) {
    if (schema.isView || keyOf(schema).empty()) return;
    for (FieldSchema& field : schema.fields)
        field.unread = field.type == Type::Binary && field.use == Use::Picture && field.primaryKeyRank == 0;
}

}  // namespace

Result<std::vector<TableSummary>> readTables(Connection& connection, const Cancel& cancel) {
    auto all = connection.run(
        "SELECT CASE WHEN pg_table_is_visible(c.oid) THEN c.relname::text ELSE n.nspname || '.' || c.relname END, "
        "c.relkind IN ('v', 'm') FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace WHERE c.relkind IN "
        "('r', 'p', 'v', 'm', 'f') AND NOT c.relispartition AND n.nspname NOT IN ('pg_catalog', 'information_schema') "
        "AND n.nspname NOT LIKE 'pg\\_toast%' AND n.nspname NOT LIKE 'pg\\_temp%' AND has_schema_privilege(n.oid, "
        "'USAGE') AND (has_table_privilege(c.oid, 'SELECT') OR has_any_column_privilege(c.oid, 'SELECT')) ORDER BY 2, "
        "NOT pg_table_is_visible(c.oid), 1",
        {}, cancel);
    if (!all) return all.error();
    std::vector<TableSummary> tables;
    for (int i = 0; i < all->rows(); ++i) tables.push_back({all->text(i, 0), all->isTrue(i, 1), std::nullopt});
    return tables;
}

Result<std::string> tableSql(Connection& connection, const std::string& table, const Cancel& cancel) {
    auto relation = relationOf(connection, table, cancel);
    if (!relation) return relation.error();
    return relation->sql;
}

Result<TableSchema> readTableSchema(Connection& connection, const std::string& table, const Cancel& cancel) {
    auto relation = relationOf(connection, table, cancel);
    if (!relation) return relation.error();
    TableSchema schema;
    schema.name = relation->name;
    auto read = readFields(connection, *relation, schema, cancel);
    if (read) read = readKeys(connection, *relation, schema, cancel);
    if (read) read = readForeignKeys(connection, *relation, schema, cancel);
    if (read) read = readChecks(connection, *relation, schema, cancel);
    if (read) read = seePictures(connection, *relation, schema, cancel);
    if (!read) return read.error();
    sayWhetherWritable(*relation, schema);
    return schema;
}

Result<void> fitScales(Connection& connection, TableSchema& schema, const std::string& from, std::optional<int> most,
                       const Cancel& cancel) {
    std::string asked, read;
    std::vector<FieldSchema*> open;
    for (FieldSchema& field : schema.fields) {
        if (!field.openScale || field.join != 0) continue;
        open.push_back(&field);
        const std::string name = quotedName(field.name);
        asked += fmt::format(
            "{0}max(min_scale({1}))::int8, length(trunc(max(abs({1})) FILTER (WHERE abs({1}) < "
            "1e38))::text)::int8",
            asked.empty() ? "" : ", ", name);
        read += (read.empty() ? "" : ", ") + quotedName(field.name);
    }
    if (open.empty()) return {};
    const std::string limit = most ? fmt::format(" LIMIT {}", *most) : "";
    auto scales = connection.run(
        fmt::format("SELECT {} FROM (SELECT {} FROM {}{}) AS sampled", asked, read, from, limit), {}, cancel);
    if (!scales) return scales.error();
    for (std::size_t i = 0; i < open.size(); ++i) {
        const int at = static_cast<int>(i) * 2;
        if (scales->isNull(0, at)) continue;
        const int needed = static_cast<int>(scales->integer(0, at));
        // Some decimals to spare, but not at the cost of digits before the point.
        const int before = scales->isNull(0, at + 1) ? 0 : static_cast<int>(scales->integer(0, at + 1));
        const int spare = std::clamp(WideDecimal::kMaxScale - before, 0, open[i]->scale);
        open[i]->scale = std::clamp(needed, spare, WideDecimal::kMaxScale);
    }
    return {};
}

Result<TableSchema> readSchema(Connection& connection, const Binding& binding, const Cancel& cancel) {
    for (const auto& [field, how] : binding.readAs)
        if (how.form != StoredForm::Own)
            return Error{ErrorCode::Unsupported,
                         fmt::format("{} is to be read in another form; values of PostgreSQL are read as their types "
                                     "say.",
                                     field)};
    auto schema = binding.query.empty() ? readTableSchema(connection, binding.table, cancel)
                                        : readQuerySchema(connection, binding.query, cancel);
    if (!schema) return schema;
    if (binding.query.empty()) {
        const auto others = [&](const std::string& table) { return readTableSchema(connection, table, cancel); };
        if (auto added = addRelated(*schema, binding.related, others); !added) return added.error();
        if (!binding.readsPictures) leavePictures(*schema);
    }
    schema->zone = TimeZone::named(binding.zone) ? binding.zone : std::string();  // a plan says so
    for (FieldSchema& field : schema->fields)
        if (field.type == Type::Instant) field.zone = schema->zone;
    return schema;
}

std::string columnSql(const FieldSchema& field) {
    return fmt::format("t{}.{}", field.join, quotedName(field.join == 0 ? field.name : field.column));
}

Result<std::string> fromSql(Connection& connection, const TableSchema& schema, const std::vector<int>& joins,
                            const Cancel& cancel) {
    std::vector<bool> wanted(schema.joins.size() + 1, false);
    for (const int join : joins)
        for (int at = join; at != 0; at = schema.joins[static_cast<std::size_t>(at) - 1].parent)
            wanted[static_cast<std::size_t>(at)] = true;
    auto own = tableSql(connection, schema.name, cancel);
    if (!own) return own;
    std::string sql = *own + " AS t0";
    for (std::size_t n = 1; n < wanted.size(); ++n) {
        if (!wanted[n]) continue;
        const Join& join = schema.joins[n - 1];
        auto other = tableSql(connection, join.table, cancel);
        if (!other) return other;
        sql += fmt::format(" LEFT JOIN {} AS t{} ON ", *other, n);
        for (std::size_t i = 0; i < join.fields.size(); ++i)
            sql += fmt::format("{}t{}.{} = t{}.{}", i == 0 ? "" : " AND ", n, quotedName(join.targetFields[i]),
                               join.parent, quotedName(join.fields[i]));
    }
    return sql;
}

std::vector<FieldIndex> keyOf(const TableSchema& schema) {
    std::vector<std::pair<int, FieldIndex>> ranked;
    for (std::size_t i = 0; i < schema.fields.size(); ++i)
        if (schema.fields[i].primaryKeyRank > 0 && schema.fields[i].join == 0)
            ranked.emplace_back(schema.fields[i].primaryKeyRank, static_cast<FieldIndex>(i));
    std::sort(ranked.begin(), ranked.end());
    std::vector<FieldIndex> key;
    for (const auto& [rank, field] : ranked) key.push_back(field);
    for (std::size_t i = 0; key.empty() && i < schema.uniqueKeys.size(); ++i) {
        for (const std::string& name : schema.uniqueKeys[i])
            if (const auto field = schema.find(name); field && schema.field(*field).required) key.push_back(*field);
        if (key.size() != schema.uniqueKeys[i].size()) key.clear();
    }
    return key;
}

}  // namespace jollyrow::postgres
