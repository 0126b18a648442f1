// SPDX-License-Identifier: MIT
// The PostgreSQL Source: opens a connection for each request, so it can be shared by threads.
#include "core/sources/postgres/pg_source.h"

#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "core/base/source_address.h"
#include "core/formats/plain_label.h"
#include "core/formats/text_format.h"
#include "core/sources/batch.h"
#include "core/sources/postgres/pg_load.h"
#include "core/sources/postgres/pg_schema.h"
#include "core/sources/postgres/pg_values.h"

namespace jollyrow::postgres {
namespace {

/// "t0.a = $1 AND t0.b = $2", from parameter `first` on; the values go to `parameters`.
std::string whereKey(const RecordRequest& record, std::size_t first, std::vector<Parameter>& parameters,
                     std::string_view table = "t0") {
    std::string where;
    for (std::size_t i = 0; i < record.keyFields.size() && i < record.key.size(); ++i) {
        const FieldSchema& field = record.schema.field(record.keyFields[i]);
        where += fmt::format("{}{}.{} = ${}", i == 0 ? "" : " AND ", table, quotedName(field.name), first + i);
        parameters.push_back(encoded(record.key[i], field));
    }
    return where.empty() ? "FALSE" : where;
}

class PostgresSource final : public Source {
  public:
    explicit PostgresSource(std::string address) : address_(std::move(address)) {}

    Result<std::vector<TableSummary>> tables(const Cancel& cancel) const override {
        auto connection = Connection::open(address_, cancel);
        if (!connection) return connection.error();
        return readTables(*connection, cancel);
    }

    Result<TableSchema> schema(const Binding& binding, const Cancel& cancel) const override {
        auto connection = Connection::open(address_, cancel);
        if (!connection) return connection.error();
        if (auto begun = connection->run("BEGIN ISOLATION LEVEL REPEATABLE READ, READ ONLY", {}, cancel); !begun)
            return begun.error();
        auto schema = readSchema(*connection, binding, cancel);
        if (!schema || !binding.query.empty()) return schema;
        constexpr int kSample = 200;
        auto own = tableSql(*connection, schema->name, cancel);
        if (!own) return own.error();
        if (auto fitted = fitScales(*connection, *schema, *own, kSample, cancel); !fitted) return fitted.error();
        return schema;
    }

    Result<std::shared_ptr<const Table>> load(const LoadRequest& request, const Cancel& cancel) const override {
        auto connection = Connection::open(address_, cancel);
        if (!connection) return connection.error();
        return loadTable(*connection, request, cancel);
    }

    Result<std::vector<LookUpEntry>> lookUp(const LookUpRequest& request, const Cancel& cancel) const override;
    Result<std::vector<Value>> valuesOf(const RecordRequest& request) const override;
    Result<std::vector<Dependents>> dependentsOf(const std::vector<RecordRequest>& records,
                                                 const Cancel& cancel) const override;
    Result<std::vector<bool>> arePresent(const std::vector<PresenceRequest>& requests,
                                         const Cancel& cancel) const override;

  private:
    const std::string address_;
};

Result<std::vector<LookUpEntry>> PostgresSource::lookUp(const LookUpRequest& request, const Cancel& cancel) const {
    auto connection = Connection::open(address_, cancel);
    if (!connection) return connection.error();
    auto schema = readTableSchema(*connection, request.table, cancel);
    if (!schema) return schema.error();
    const std::string& label = request.labelField.empty() ? request.keyField : request.labelField;
    const auto keyField = schema->find(request.keyField), labelField = schema->find(label);
    if (!keyField || !labelField)
        return Error{ErrorCode::NotFound, fmt::format("{} has no column {} to look up.", request.table,
                                                      keyField ? label : request.keyField)};
    const FieldSchema &keyIs = schema->field(*keyField), &labelIs = schema->field(*labelField);
    const std::string key = quotedName(request.keyField), shown = quotedName(label);
    auto table = tableSql(*connection, request.table, cancel);
    if (!table) return table.error();
    std::string sql = fmt::format("SELECT {}, {} FROM {}", selected(keyIs, key), selected(labelIs, shown), *table);
    std::vector<Parameter> parameters;
    if (request.key) {
        sql += fmt::format(" WHERE {} = $1", key);
        parameters.push_back(encoded(*request.key, keyIs));
    } else if (!request.contains.empty()) {
        sql += fmt::format(" WHERE {}::text ILIKE $1", shown);
        parameters.push_back(likeContaining(request.contains));
    }
    sql += fmt::format(" ORDER BY lower({}::text) COLLATE \"C\", {}", shown, key);
    if (!request.called) sql += fmt::format(" LIMIT {}", request.most);
    auto rows = connection->run(sql, parameters, cancel);
    if (!rows) return rows.error();
    const auto called = request.called ? std::set<std::string>(request.called->begin(), request.called->end())
                                       : std::set<std::string>();
    std::vector<LookUpEntry> entries;
    for (int i = 0; i < rows->rows(); ++i) {
        if (rows->isNull(i, 0)) continue;
        LookUpEntry entry{decode(keyIs, rows->bytes(i, 0)), {}};
        if (!rows->isNull(i, 1)) appendDisplay(entry.label, decode(labelIs, rows->bytes(i, 1)), {});
        std::string plainKey;
        appendPlain(plainKey, entry.key);
        if (request.called && !called.contains(entry.label) && !called.contains(plainLabel(entry.label)) &&
            !called.contains(plainKey))
            continue;
        entries.push_back(std::move(entry));
    }
    if (request.called)
        std::stable_sort(entries.begin(), entries.end(),
                         [](const LookUpEntry& a, const LookUpEntry& b) { return a.label < b.label; });
    return entries;
}

Result<std::vector<Value>> PostgresSource::valuesOf(const RecordRequest& request) const {
    auto connection = Connection::open(address_);
    if (!connection) return connection.error();
    std::string columns;
    std::vector<int> joins;
    for (const FieldIndex at : request.fields) {
        const FieldSchema& field = request.schema.field(at);
        columns += (columns.empty() ? "" : ", ") + selected(field, columnSql(field));
        if (field.join != 0) joins.push_back(field.join);
    }
    auto from = fromSql(*connection, request.schema, joins, {});
    if (!from) return from.error();
    std::vector<Parameter> parameters;
    const std::string where = whereKey(request, 1, parameters);
    auto row = connection->run(fmt::format("SELECT {} FROM {} WHERE {}", columns, *from, where), parameters);
    if (!row) return row.error();
    if (row->rows() == 0) return Error{ErrorCode::NotFound, "This record is no longer there."};
    std::vector<Value> values;
    for (int i = 0; i < row->columns(); ++i)
        values.push_back(row->isNull(0, i) ? Value(Empty{})
                                           : decode(request.schema.field(request.fields[static_cast<std::size_t>(i)]),
                                                    row->bytes(0, i)));
    return values;
}

Result<std::vector<Dependents>> PostgresSource::dependentsOf(const std::vector<RecordRequest>& records,
                                                             const Cancel& cancel) const {
    std::vector<Dependents> all;
    if (records.empty()) return all;
    auto connection = Connection::open(address_, cancel);
    if (!connection) return connection.error();
    auto target = tableSql(*connection, records.front().schema.name, cancel);
    if (!target) return target.error();
    auto links = connection->run(
        "SELECT CASE WHEN pg_table_is_visible(c.oid) THEN c.relname::text ELSE n.nspname || '.' || c.relname END, "
        "format('%I.%I', n.nspname, c.relname), k.confdeltype::text, (SELECT string_agg(format('p.%I = c.%I', "
        "p.attname, f.attname), ' AND ') FROM unnest(k.confkey, k.conkey) AS u(p, f) JOIN pg_attribute p ON p.attrelid "
        "= k.confrelid AND p.attnum = u.p JOIN pg_attribute f ON f.attrelid = k.conrelid AND f.attnum = u.f) FROM "
        "pg_constraint k JOIN pg_class c ON c.oid = k.conrelid JOIN pg_namespace n ON n.oid = c.relnamespace WHERE "
        "k.contype = 'f' AND k.confrelid = $1::regclass AND k.conparentid = 0 ORDER BY 1",
        {*target}, cancel);
    if (!links) return links.error();
    for (int i = 0; i < links->rows(); ++i) {
        const std::string action = links->text(i, 2);
        Dependents found{links->text(i, 0), 0,
                         action == "c"   ? Dependents::Then::Delete
                         : action == "n" ? Dependents::Then::Unlink
                         : action == "d" ? Dependents::Then::Default
                                         : Dependents::Then::Refuse};
        for (const RecordRequest& record : records) {
            std::vector<Parameter> parameters;
            const std::string where = whereKey(record, 1, parameters, "p");
            auto count = connection->run(fmt::format("SELECT count(*) FROM {} AS p JOIN {} AS c ON {} WHERE {}",
                                                     *target, links->text(i, 1), links->text(i, 3), where),
                                         parameters, cancel);
            if (!count) return count.error();
            found.records += count->integer(0, 0);
        }
        if (found.records == 0) continue;
        const auto known = std::find_if(all.begin(), all.end(), [&](const Dependents& d) {
            return d.table == found.table && d.then == found.then;
        });
        known == all.end() ? all.push_back(found) : void(known->records += found.records);
    }
    return all;
}

Result<std::vector<bool>> PostgresSource::arePresent(const std::vector<PresenceRequest>& requests,
                                                     const Cancel& cancel) const {
    auto connection = Connection::open(address_, cancel);
    if (!connection) return connection.error();
    std::vector<bool> all;
    for (const PresenceRequest& request : requests) {
        auto table = tableSql(*connection, request.table, cancel);
        if (!table) return table.error();
        std::string where;
        std::vector<Parameter> parameters;
        for (std::size_t i = 0; i < request.fields.size(); ++i) {
            where += fmt::format("{}t0.{} = ${}", i == 0 ? "" : " AND ", quotedName(request.fields[i]), i + 1);
            parameters.push_back(
                encoded(request.values[i], i < request.forms.size() ? request.forms[i] : FieldSchema{}));
        }
        if (request.except)
            where += fmt::format(" AND NOT ({})", whereKey(*request.except, parameters.size() + 1, parameters));
        auto one =
            connection->run(fmt::format("SELECT 1 FROM {} AS t0 WHERE {} LIMIT 1", *table, where), parameters, cancel);
        if (!one) return one.error();
        all.push_back(one->rows() == 1);
    }
    return all;
}

}  // namespace

bool knows(const std::string& address) { return isServerAddress(address); }

std::optional<Error> whyNotAnAddress(const std::string& address) {
    if (auto loaded = loadPq(); !loaded) return loaded.error();
    // libpq's own words would quote the address, and with it what may be a password.
    PQconninfoOption* const options = pq().PQconninfoParse(address.c_str(), nullptr);
    if (!options)
        return Error{ErrorCode::InvalidInput,
                     "This is no address of a server; one looks like postgresql://user@host:5432/database."};
    bool hasPassword = false;
    for (const PQconninfoOption* at = options; at->keyword; ++at)
        hasPassword =
            hasPassword ||
            ((std::string_view(at->keyword) == "password" || std::string_view(at->keyword) == "sslpassword") &&
             at->val && *at->val);
    pq().PQconninfoFree(options);
    if (!hasPassword) return std::nullopt;
    return Error{
        ErrorCode::InvalidInput,
        "There is a password in this address, which would come to stand in designs and lists of commands. Leave "
        "it out, and keep it in ~/.pgpass, a service file or PGPASSWORD."};
}

Result<std::shared_ptr<const Source>> openSource(const std::string& address) {
    if (auto why = whyNotAnAddress(address)) return *why;
    return std::shared_ptr<const Source>(std::make_shared<PostgresSource>(address));
}

}  // namespace jollyrow::postgres
