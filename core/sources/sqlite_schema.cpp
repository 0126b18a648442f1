// SPDX-License-Identifier: MIT
#include "core/sources/sqlite_schema.h"

#include <fmt/format.h>

#include <algorithm>

#include "core/base/near_name.h"
#include "core/rules/lexer.h"
#include "core/sources/sqlite_values.h"

namespace jollyrow::sqlite {
namespace {

/// The tokens between the parenthesis at `open` and its partner; `open` moves past the partner.
std::vector<Token> insideParentheses(const std::vector<Token>& tokens, std::size_t& open) {
    std::vector<Token> inside;
    int depth = 0;
    for (; open < tokens.size() && tokens[open].kind != TokenKind::End; ++open) {
        if (tokens[open].isSymbol("(") && depth++ == 0) continue;
        if (tokens[open].isSymbol(")") && --depth == 0) break;
        inside.push_back(tokens[open]);
    }
    return inside;
}

/// `status IN ('Quoted', 'Booked')` -> the field and its permitted texts; nothing for other conditions.
void readPermitted(const std::vector<Token>& check, TableSchema& schema) {
    if (check.size() < 5 || !check[1].isWord("IN") || !check[2].isSymbol("(") || !check.back().isSymbol(")")) return;
    const auto field = std::find_if(schema.fields.begin(), schema.fields.end(),
                                    [&](const FieldSchema& f) { return f.name == check[0].text; });
    if (field == schema.fields.end() || field->type != Type::Text) return;
    std::vector<std::string> values;
    for (std::size_t i = 3; i + 1 < check.size(); ++i) {
        if (check[i].isSymbol(",")) continue;
        if (check[i].kind != TokenKind::String) return;
        values.push_back(check[i].text);
    }
    field->permitted = std::move(values);
    field->use = Use::Choice;
}

/// CHECK constraints stand only in the text that made the table.
void readChecks(sqlite3* connection, TableSchema& schema) {
    auto statement = prepare(connection, "SELECT sql FROM sqlite_schema WHERE type = 'table' AND name = ?1");
    if (!statement) return;
    bindValue(statement->get(), 1, schema.name);
    if (sqlite3_step(statement->get()) != SQLITE_ROW) return;
    const std::string sql(columnText(statement->get(), 0));
    const auto tokens = tokensOf(sql);
    if (!tokens) return;
    for (std::size_t i = 0; i + 1 < tokens->size(); ++i) {
        if (!(*tokens)[i].isWord("CHECK") || !(*tokens)[i + 1].isSymbol("(")) continue;
        std::size_t at = i + 1;
        const std::vector<Token> inside = insideParentheses(*tokens, at);
        if (inside.empty()) continue;
        const std::size_t start = inside.front().range.offset;
        schema.checks.push_back(sql.substr(start, inside.back().range.offset + inside.back().range.length - start));
        readPermitted(inside, schema);
        i = at;
    }
}

/// Fills in what a foreign key leaves out: the target's key, and the field that stands for its records: a text that
/// is unique, else one called name, title or label, else the first text.
void describeTarget(sqlite3* connection, ForeignKey& link) {
    auto statement = prepare(connection, "SELECT name, type, pk FROM pragma_table_info(?1)");
    if (!statement) return;
    bindValue(statement->get(), 1, link.table);
    std::vector<std::string> keys, texts;
    while (sqlite3_step(statement->get()) == SQLITE_ROW) {
        FieldSchema field;
        field.name = columnText(statement->get(), 0);
        readDeclaredType(field, columnText(statement->get(), 1));
        if (sqlite3_column_int(statement->get(), 2) > 0) keys.push_back(field.name);
        if (field.type == Type::Text && !columnText(statement->get(), 1).empty()) texts.push_back(field.name);
        if (field.type != Type::Binary && field.type != Type::NumberList) link.targetChoices.push_back(field.name);
    }
    for (std::size_t i = 0; i < link.targetFields.size(); ++i)
        if (link.targetFields[i].empty() && i < keys.size()) link.targetFields[i] = keys[i];
    int best = 0;
    for (const std::string& text : texts) {
        const int weight = text == "name" || text == "title" || text == "label" ? 3 : text.ends_with("name") ? 2 : 1;
        if (weight <= best) continue;
        best = weight;
        link.label = text;
    }
}

void readForeignKeys(sqlite3* connection, TableSchema& schema) {
    auto statement =
        prepare(connection, "SELECT id, \"table\", \"from\", \"to\" FROM pragma_foreign_key_list(?1) ORDER BY id, seq");
    if (!statement) return;
    bindValue(statement->get(), 1, schema.name);
    int lastId = -1;
    while (sqlite3_step(statement->get()) == SQLITE_ROW) {
        if (const int id = sqlite3_column_int(statement->get(), 0); id != lastId || schema.foreignKeys.empty()) {
            schema.foreignKeys.push_back({{}, std::string(columnText(statement->get(), 1)), {}});
            lastId = id;
        }
        schema.foreignKeys.back().fields.emplace_back(columnText(statement->get(), 2));
        schema.foreignKeys.back().targetFields.emplace_back(columnText(statement->get(), 3));
    }
    for (ForeignKey& link : schema.foreignKeys) describeTarget(connection, link);
    for (const ForeignKey& link : schema.foreignKeys)
        if (link.fields.size() == 1)
            if (const auto field = schema.find(link.fields.front())) schema.fields[raw(*field)].use = Use::LookUp;
}

void readUniqueKeys(sqlite3* connection, TableSchema& schema) {
    auto statement = prepare(connection,
                             "SELECT l.seq, i.name FROM pragma_index_list(?1) l, pragma_index_info(l.name) i "
                             "WHERE l.\"unique\" = 1 AND l.partial = 0 ORDER BY l.seq, i.seqno");
    if (!statement) return;
    bindValue(statement->get(), 1, schema.name);
    int lastSeq = -1;
    while (sqlite3_step(statement->get()) == SQLITE_ROW) {
        if (const int seq = sqlite3_column_int(statement->get(), 0); seq != lastSeq) {
            schema.uniqueKeys.emplace_back();
            lastSeq = seq;
        }
        schema.uniqueKeys.back().emplace_back(columnText(statement->get(), 1));
    }
    for (const auto& key : schema.uniqueKeys)
        if (key.size() == 1)
            if (const auto field = schema.find(key.front())) schema.fields[raw(*field)].unique = true;
}

Result<void> readFields(sqlite3* connection, TableSchema& schema) {
    auto statement =
        prepare(connection, "SELECT name, type, \"notnull\", dflt_value, pk, hidden FROM pragma_table_xinfo(?1)");
    if (!statement) return statement.error();
    bindValue(statement->get(), 1, schema.name);
    int keyColumns = 0;
    while (sqlite3_step(statement->get()) == SQLITE_ROW) {
        if (sqlite3_column_int(statement->get(), 5) == 1) continue;  // hidden column of a virtual table
        FieldSchema field;
        field.name = columnText(statement->get(), 0);
        readDeclaredType(field, columnText(statement->get(), 1));
        field.required = sqlite3_column_int(statement->get(), 2) != 0;
        if (sqlite3_column_type(statement->get(), 3) != SQLITE_NULL)
            field.defaultSql = std::string(columnText(statement->get(), 3));
        field.primaryKeyRank = sqlite3_column_int(statement->get(), 4);
        field.generated = sqlite3_column_int(statement->get(), 5) > 1;
        keyColumns += field.primaryKeyRank > 0 ? 1 : 0;
        schema.fields.push_back(std::move(field));
    }
    for (FieldSchema& field : schema.fields) {
        if (keyColumns == 1 && field.primaryKeyRank == 1) field.unique = field.required = true;
        const std::string& name = field.name;
        const bool pictureName = name.find("picture") != std::string::npos || name.find("photo") != std::string::npos ||
                                 name.find("image") != std::string::npos;
        if (field.type == Type::Binary && pictureName) field.use = Use::Picture;
        if (field.type == Type::Text && field.maxLength == 0 &&
            (name.find("note") != std::string::npos || name.find("comment") != std::string::npos ||
             name.find("description") != std::string::npos))
            field.use = Use::LongText;
    }
    return {};
}

/// Columns without a declared type take the type that their first values have.
void inferUntyped(sqlite3* connection, TableSchema& schema, const std::string& select) {
    constexpr int kSampleRows = 200;
    const bool anyUntyped = std::any_of(schema.fields.begin(), schema.fields.end(),
                                        [](const FieldSchema& f) { return f.declaredType.empty(); });
    if (!anyUntyped) return;
    auto statement = prepare(connection, select);
    if (!statement) return;
    std::vector<unsigned> seen(schema.fields.size(), 0);  // one bit a storage class
    for (int row = 0; row < kSampleRows && sqlite3_step(statement->get()) == SQLITE_ROW; ++row)
        for (std::size_t i = 0; i < seen.size(); ++i)
            seen[i] |= 1U << sqlite3_column_type(statement->get(), static_cast<int>(i));
    for (std::size_t i = 0; i < seen.size(); ++i) {
        if (!schema.fields[i].declaredType.empty()) continue;
        const unsigned kinds = seen[i] & ~(1U << SQLITE_NULL);
        if (kinds == 1U << SQLITE_INTEGER) schema.fields[i].type = Type::Integer;
        if (kinds == 1U << SQLITE_FLOAT || kinds == ((1U << SQLITE_FLOAT) | (1U << SQLITE_INTEGER)))
            schema.fields[i].type = Type::Real;
        if (kinds == 1U << SQLITE_BLOB) schema.fields[i].type = Type::Binary;
    }
}

}  // namespace

Result<std::vector<TableSummary>> readTables(sqlite3* connection) {
    auto statement = prepare(connection,
                             "SELECT name, type FROM sqlite_schema WHERE type IN ('table', 'view') AND name NOT LIKE "
                             "'sqlite\\_%' ESCAPE '\\' ORDER BY type, name");
    if (!statement) return statement.error();
    std::vector<TableSummary> tables;
    int code = SQLITE_ROW;
    while ((code = sqlite3_step(statement->get())) == SQLITE_ROW)
        tables.push_back(
            {std::string(columnText(statement->get(), 0)), columnText(statement->get(), 1) == "view", std::nullopt});
    if (code != SQLITE_DONE) return errorOf(connection, "Reading the tables");
    for (TableSummary& table : tables) {
        if (table.isView) continue;
        // Counting reads a whole table; the span of its row ids is known at once and seldom far off.
        const std::string name = quoted(table.name);
        auto span = prepare(connection,
                            "SELECT (SELECT max(rowid) FROM " + name + ") - (SELECT min(rowid) FROM " + name + ") + 1");
        if (span && sqlite3_step(span->get()) == SQLITE_ROW) table.aboutRows = sqlite3_column_int64(span->get(), 0);
    }
    return tables;
}

Result<TableSchema> readTableSchema(sqlite3* connection, const std::string& table) {
    auto statement =
        prepare(connection, "SELECT type FROM sqlite_schema WHERE name = ?1 AND type IN ('table', 'view')");
    if (!statement) return statement.error();
    bindValue(statement->get(), 1, table);
    if (sqlite3_step(statement->get()) != SQLITE_ROW) {
        std::vector<std::string> names;
        if (auto all = prepare(connection, "SELECT name FROM sqlite_schema WHERE type IN ('table', 'view')"))
            while (sqlite3_step(all->get()) == SQLITE_ROW) names.emplace_back(columnText(all->get(), 0));
        const auto near = nearestName(table, names);
        return Error{ErrorCode::NotFound, fmt::format("There is no table or view {} in {}.{}", table,
                                                      sqlite3_db_filename(connection, "main"),
                                                      near ? fmt::format(" Did you mean {}?", *near)
                                                           : fmt::format(" It has: {}.", fmt::join(names, ", ")))};
    }
    TableSchema schema;
    schema.name = table;
    schema.isView = columnText(statement->get(), 0) == "view";
    if (auto read = readFields(connection, schema); !read) return read.error();
    if (schema.isView) {
        schema.writable = false;
        schema.whyNotWritable = fmt::format("{} is a view; edit the tables it is made of.", table);
        inferUntyped(connection, schema, "SELECT * FROM " + quoted(table));
    } else {
        readUniqueKeys(connection, schema);
        readForeignKeys(connection, schema);
        readChecks(connection, schema);
        inferUntyped(connection, schema, "SELECT * FROM " + quoted(table));
    }
    return schema;
}

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

void addRelated(sqlite3* connection, TableSchema& schema, const std::vector<std::string>& paths) {
    std::vector<TableSchema> tables;  // of the joins, in their order
    const TableSchema own = schema;
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
            auto target = possible ? readTableSchema(connection, key->table) : Result<TableSchema>(Error{});
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
}

Result<TableSchema> readQuerySchema(sqlite3* connection, const std::string& query) {
    sqlite3_stmt* handle = nullptr;
    const char* tail = nullptr;
    if (sqlite3_prepare_v2(connection, query.data(), static_cast<int>(query.size()), &handle, &tail) != SQLITE_OK) {
        const int offset = sqlite3_error_offset(connection);
        Error error{ErrorCode::InvalidInput, fmt::format("The SELECT cannot be used: {}.", sqlite3_errmsg(connection))};
        if (offset >= 0) error.where = TextRange{static_cast<std::size_t>(offset), 1};
        return error;
    }
    const Statement statement(handle);
    const std::string_view rest(tail, static_cast<std::size_t>(query.data() + query.size() - tail));
    if (!handle || rest.find_first_not_of(" \t\r\n;") != std::string_view::npos)
        return Error{ErrorCode::InvalidInput, "One SELECT is expected, and nothing after it."};
    if (!sqlite3_stmt_readonly(handle) || sqlite3_column_count(handle) == 0)
        return Error{ErrorCode::InvalidInput,
                     "Only a SELECT can be bound: this statement would change the database or returns no rows."};
    for (int i = 1; i <= sqlite3_bind_parameter_count(handle); ++i)
        if (const char* name = sqlite3_bind_parameter_name(handle, i); !name || name[0] != ':')
            return Error{
                ErrorCode::Unsupported,
                fmt::format("Parameters of the SELECT are written :name, e.g. :owner, not {}.", name ? name : "?")};
    TableSchema schema;
    schema.name = "query";
    schema.isView = true;
    schema.writable = false;
    schema.whyNotWritable = "The records come from a SELECT; bind to a table to edit them.";
    for (int i = 0; i < sqlite3_column_count(handle); ++i) {
        FieldSchema field;
        field.name = sqlite3_column_name(handle, i);
        int copies = 1;
        const std::string plain = field.name;
        while (schema.find(field.name)) field.name = fmt::format("{}_{}", plain, ++copies);
        if (const char* declared = sqlite3_column_decltype(handle, i)) readDeclaredType(field, declared);
        schema.fields.push_back(std::move(field));
    }
    inferUntyped(connection, schema, query);
    return schema;
}

bool hasRowId(sqlite3* connection, const TableSchema& schema) {
    if (schema.isView) return false;
    return prepare(connection, "SELECT rowid FROM " + quoted(schema.name) + " LIMIT 0").ok();
}

}  // namespace jollyrow::sqlite
