// SPDX-License-Identifier: MIT
// Covered by tests/session/follow_test.cpp.
#include "core/sources/postgres/pg_follow.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "core/formats/text_format.h"
#include "core/sources/postgres/pg_schema.h"
#include "core/sources/postgres/pg_source.h"
#include "core/sources/postgres/pg_values.h"

namespace jollyrow::postgres {
namespace {

constexpr const char* kChannel = "jolly_row";
constexpr const char* kFunction = "jolly_row_tells";
/// More records than these between two looks are compared as a whole.
constexpr std::size_t kMostRead = 5000;

std::string quotedText(std::string_view text) {
    std::string out = "'";
    for (const char c : text) out += c == '\'' ? std::string("''") : std::string(1, c);
    return out + "'";
}

/// As it stands in an array that is written as a text.
std::string quotedElement(std::string_view text) {
    std::string out(1, '"');
    for (const char c : text) {
        if (c == '"' || c == '\\') out.push_back('\\');
        out.push_back(c);
    }
    out.push_back('"');
    return out;
}

/// "yard.jobs" as two names.
std::string quotedTable(const std::string& table) {
    const std::size_t dot = table.find('.');
    return dot == std::string::npos ? quotedName(table)
                                    : quotedName(table.substr(0, dot)) + "." + quotedName(table.substr(dot + 1));
}

std::vector<std::string> payloads(Connection& connection) {
    std::vector<std::string> all;
    pq().PQconsumeInput(connection.get());
    const int own = pq().PQbackendPID(connection.get());
    while (PGnotify* told = pq().PQnotifies(connection.get())) {
        if (told->be_pid != own && std::string_view(told->relname) == kChannel) all.emplace_back(told->extra);
        pq().PQfreemem(told);
    }
    return all;
}

}  // namespace

std::string triggerSql(const std::string& table, const std::vector<std::string>& keyFields,
                       const std::vector<std::string>& related) {
    std::string keys;
    for (const std::string& field : keyFields) keys += (keys.empty() ? "" : ", ") + quotedText(field);
    std::string sql = fmt::format(R"(CREATE OR REPLACE FUNCTION {1}() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
  before jsonb;
  after jsonb;
BEGIN
  IF TG_LEVEL = 'STATEMENT' THEN
    PERFORM pg_notify('{0}', jsonb_build_object('schema', TG_TABLE_SCHEMA, 'table', TG_TABLE_NAME)::text);
    RETURN NULL;
  END IF;
  IF TG_OP <> 'INSERT' THEN
    SELECT jsonb_object_agg(name, to_jsonb(OLD) ->> name) INTO before FROM unnest(TG_ARGV) AS name;
    PERFORM pg_notify('{0}', jsonb_build_object(
      'schema', TG_TABLE_SCHEMA, 'table', TG_TABLE_NAME, 'key', before)::text);
  END IF;
  IF TG_OP <> 'DELETE' THEN
    SELECT jsonb_object_agg(name, to_jsonb(NEW) ->> name) INTO after FROM unnest(TG_ARGV) AS name;
    IF after IS DISTINCT FROM before THEN
      PERFORM pg_notify('{0}', jsonb_build_object(
        'schema', TG_TABLE_SCHEMA, 'table', TG_TABLE_NAME, 'key', after)::text);
    END IF;
  END IF;
  RETURN NULL;
END $$;

CREATE TRIGGER {1} AFTER INSERT OR UPDATE OR DELETE ON {2}
  FOR EACH ROW EXECUTE FUNCTION {1}({3});

CREATE TRIGGER {1}_all AFTER TRUNCATE ON {2}
  FOR EACH STATEMENT EXECUTE FUNCTION {1}();
)",
                                  kChannel, kFunction, quotedTable(table), keys);
    // What hangs on a record of these is not looked for here: that something was changed is enough.
    for (const std::string& other : related)
        sql += fmt::format(
            "\nCREATE TRIGGER {0}_related AFTER INSERT OR UPDATE OR DELETE OR TRUNCATE ON {1}\n"
            "  FOR EACH STATEMENT EXECUTE FUNCTION {0}();\n",
            kFunction, quotedTable(other));
    return sql;
}

Result<void> Follower::listen(Connection& connection, const TableSchema& schema) {
    auto table = tableSql(connection, schema.name);
    if (!table) return table.error();
    auto trigger = connection.run(
        "SELECT 1 FROM pg_trigger AS t JOIN pg_proc AS p ON p.oid = t.tgfoid WHERE t.tgrelid = $1::regclass AND "
        "p.proname = $2 AND t.tgenabled <> 'D'",
        {*table, kFunction});
    if (!trigger) return trigger.error();
    if (trigger->rows() == 0)
        return Error{ErrorCode::Unsupported,
                     fmt::format("{} has no trigger that tells it; the workbench shows its SQL.", schema.name)};
    auto listening = connection.run(fmt::format("LISTEN {}", kChannel));
    if (!listening) return listening.error();
    listensOn_ = pq().PQbackendPID(connection.get());
    table_ = schema.name;
    return {};
}

std::optional<std::vector<std::string>> Follower::keyIn(const std::string& payload, const TableSchema& schema,
                                                        const std::vector<FieldIndex>& keyFields) {
    const auto told = nlohmann::json::parse(payload, nullptr, false);
    const auto text = [&](const char* name) {
        const auto found = told.is_object() ? told.find(name) : told.end();
        return found != told.end() && found->is_string() ? found->get<std::string>() : std::string();
    };
    const std::string name = text("table"), key = "key";
    const auto isCalled = [&](const std::string& known) {
        return known == name || known == text("schema") + "." + name;
    };
    if (name.empty()) return std::nullopt;
    if (!isCalled(schema.name)) {
        const bool isRelated = std::any_of(schema.joins.begin(), schema.joins.end(),
                                           [&](const Join& join) { return isCalled(join.table); });
        return isRelated ? std::nullopt : std::optional(std::vector<std::string>{});
    }
    if (!told.contains(key) || !told[key].is_object()) return std::nullopt;
    std::vector<std::string> parts;
    for (const FieldIndex field : keyFields) {
        const auto part = told[key].find(schema.field(field).name);
        if (part == told[key].end() || !part->is_string()) return std::nullopt;
        parts.push_back(part->get<std::string>());
    }
    return parts;
}

Result<std::vector<ElsewhereChange>> Follower::read(Connection& connection, const TableSchema& schema,
                                                    const std::vector<FieldIndex>& keyFields,
                                                    const std::set<std::vector<std::string>>& keys) {
    // All of them at once: a key as an array of texts for each of its fields, beside which stands the record, if any.
    std::string told, named, places, where, columns;
    std::vector<Parameter> parameters;
    for (std::size_t k = 0; k < keyFields.size(); ++k) {
        const FieldSchema& field = schema.field(keyFields[k]);
        std::string texts(1, '{');
        for (const auto& key : keys) {
            if (texts.size() > 1) texts.push_back(',');
            texts.append(quotedElement(key[k]));
        }
        texts.push_back('}');
        parameters.emplace_back(std::move(texts));
        const char* comma = k == 0 ? "" : ", ";
        told += fmt::format("{}${}::text[]", comma, k + 1);
        named += fmt::format("{}k{}", comma, k);
        // As the type has it: a text of fixed length without its spaces, a number by its scale.
        const std::string key = fmt::format("CAST(told.k{} AS {})", k, field.declaredType);
        places += fmt::format("{}, ", selected(field, key));
        where += fmt::format("{}{} = {}", k == 0 ? "" : " AND ", columnSql(field), key);
    }
    std::vector<FieldIndex> fields;
    std::vector<int> joins;
    for (std::size_t i = 0; i < schema.storedFields(); ++i) {
        const FieldSchema& field = schema.fields[i];
        if (field.unread) continue;
        columns += ", " + selected(field, columnSql(field));
        fields.push_back(static_cast<FieldIndex>(i));
        if (field.join != 0) joins.push_back(field.join);
    }
    auto from = fromSql(connection, schema, joins, {});
    if (!from) return from.error();
    auto rows =
        connection.run(fmt::format("SELECT {}{} IS NULL{} FROM unnest({}) AS told({}) LEFT JOIN ({}) ON {}", places,
                                   columnSql(schema.field(keyFields.front())), columns, told, named, *from, where),
                       parameters);
    if (!rows) return rows.error();
    std::vector<ElsewhereChange> changes;
    for (int row = 0; row < rows->rows(); ++row) {
        ElsewhereChange change;
        int at = 0;
        for (const FieldIndex field : keyFields)
            change.key.push_back(decode(schema.field(field), rows->bytes(row, at++)));
        change.isGone = rows->isTrue(row, at++);
        for (std::size_t i = 0; i < fields.size() && !change.isGone; ++i, ++at) {
            const FieldSchema& field = schema.field(fields[i]);
            change.values.emplace_back(fields[i],
                                       rows->isNull(row, at) ? Value(Empty{}) : decode(field, rows->bytes(row, at)));
            for (std::size_t k = 0; k < keyFields.size(); ++k)
                if (keyFields[k] == fields[i]) change.key[k] = change.values.back().second;
        }
        changes.push_back(std::move(change));
    }
    return changes;
}

Result<SeenElsewhere> Follower::look(Connection& connection, const TableSchema& schema,
                                     const std::vector<FieldIndex>& keyFields) {
    if (listensOn_ != pq().PQbackendPID(connection.get()) || table_ != schema.name) {
        if (auto listening = listen(connection, schema); !listening) return listening.error();
        return SeenElsewhere{true, {}};
    }
    SeenElsewhere seen;
    std::set<std::vector<std::string>> keys;
    for (const std::string& payload : payloads(connection)) {
        const auto key = keyIn(payload, schema, keyFields);
        seen.isSomething = seen.isSomething || !key || keys.size() > kMostRead;
        if (key && !key->empty()) keys.insert(*key);
    }
    if (seen.isSomething || keys.empty()) return seen;
    auto changes = read(connection, schema, keyFields, keys);
    if (!changes) return SeenElsewhere{true, {}};  // what was told is not told again
    seen.changes = std::move(*changes);
    return seen;
}

}  // namespace jollyrow::postgres
