// SPDX-License-Identifier: MIT
#include "core/sources/sqlite/sqlite_schema.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <numeric>

#include "core/base/near_name.h"
#include "core/columns/time_zone.h"
#include "core/pictures/picture_kind.h"
#include "core/rules/lexer.h"
#include "core/sources/related_fields.h"
#include "core/sources/sqlite/sqlite_values.h"

namespace jollyrow::sqlite {
namespace {

/// Calls `take` for each row of a statement; an end before the last row (locked, damaged, cancelled) is an error.
template <class Take>
Result<void> forEachRow(sqlite3_stmt* statement, const Take& take) {
    int code = SQLITE_ROW;
    while ((code = sqlite3_step(statement)) == SQLITE_ROW) take(statement);
    if (code != SQLITE_DONE) return errorOf(sqlite3_db_handle(statement), "Reading the tables");
    return {};
}

/// The same for a query with one text bound.
template <class Take>
Result<void> forEachRow(sqlite3* connection, const std::string& sql, const std::string& name, const Take& take) {
    auto statement = prepare(connection, sql);
    if (!statement) return statement.error();
    bindValue(statement->get(), 1, name);
    return forEachRow(statement->get(), take);
}

/// Names of tables and columns are one name to SQLite whatever the case of their ASCII letters.
bool sameName(const std::string& a, const std::string& b) { return sqlite3_stricmp(a.c_str(), b.c_str()) == 0; }

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
Result<void> readChecks(sqlite3* connection, TableSchema& schema) {
    std::string sql;
    auto read = forEachRow(connection, "SELECT sql FROM sqlite_schema WHERE type = 'table' AND name = ?1", schema.name,
                           [&sql](sqlite3_stmt* row) { sql = columnText(row, 0); });
    if (!read) return read;
    const auto tokens = tokensOf(sql);
    if (!tokens) return {};
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
    return {};
}

/// Fills in what a foreign key leaves out (the target's key, in the key's own order), writes its names as the target
/// does, and finds the field that stands for its records: a text that is unique, else one called name, title or label,
/// else the first text.
Result<void> describeTarget(sqlite3* connection, ForeignKey& link) {
    auto named =
        forEachRow(connection, "SELECT name FROM sqlite_schema WHERE type = 'table' AND name = ?1 COLLATE NOCASE",
                   std::string(link.table), [&link](sqlite3_stmt* row) { link.table = columnText(row, 0); });
    if (!named) return named;
    std::map<int, std::string> keys;  // by their place in the key, which need not be that in the table
    std::vector<std::string> names, texts;
    auto read =
        forEachRow(connection, "SELECT name, type, pk FROM pragma_table_info(?1)", link.table, [&](sqlite3_stmt* row) {
            FieldSchema field;
            field.name = columnText(row, 0);
            readDeclaredType(field, columnText(row, 1));
            names.push_back(field.name);
            if (const int rank = sqlite3_column_int(row, 2); rank > 0) keys.emplace(rank, field.name);
            if (field.type == Type::Text && !columnText(row, 1).empty()) texts.push_back(field.name);
            if (field.type != Type::Binary && field.type != Type::NumberList) link.targetChoices.push_back(field.name);
        });
    if (!read) return read;
    auto key = keys.begin();
    for (std::string& target : link.targetFields) {
        if (target.empty() && key != keys.end()) target = (key++)->second;
        const auto known = std::find_if(names.begin(), names.end(), [&](const auto& n) { return sameName(n, target); });
        if (known != names.end()) target = *known;
    }
    link.label = labelAmong(texts);
    return {};
}

Result<void> readForeignKeys(sqlite3* connection, TableSchema& schema) {
    int lastId = -1;
    auto read = forEachRow(
        connection, "SELECT id, \"table\", \"from\", \"to\" FROM pragma_foreign_key_list(?1) ORDER BY id, seq",
        schema.name, [&](sqlite3_stmt* row) {
            if (const int id = sqlite3_column_int(row, 0); id != lastId || schema.foreignKeys.empty()) {
                schema.foreignKeys.push_back({{}, std::string(columnText(row, 1)), {}});
                lastId = id;
            }
            std::string own(columnText(row, 2));
            for (const FieldSchema& field : schema.fields)
                if (sameName(field.name, own)) own = field.name;
            schema.foreignKeys.back().fields.push_back(std::move(own));
            schema.foreignKeys.back().targetFields.emplace_back(columnText(row, 3));
        });
    if (!read) return read;
    for (ForeignKey& link : schema.foreignKeys)
        if (auto described = describeTarget(connection, link); !described) return described;
    for (const ForeignKey& link : schema.foreignKeys)
        if (link.fields.size() == 1)
            if (const auto field = schema.find(link.fields.front())) schema.fields[raw(*field)].use = Use::LookUp;
    return {};
}

Result<void> readUniqueKeys(sqlite3* connection, TableSchema& schema) {
    int lastSeq = -1;
    auto read = forEachRow(connection,
                           "SELECT l.seq, i.name FROM pragma_index_list(?1) l, pragma_index_info(l.name) i "
                           "WHERE l.\"unique\" = 1 AND l.partial = 0 ORDER BY l.seq, i.seqno",
                           schema.name, [&](sqlite3_stmt* row) {
                               if (const int seq = sqlite3_column_int(row, 0); seq != lastSeq) {
                                   schema.uniqueKeys.emplace_back();
                                   lastSeq = seq;
                               }
                               schema.uniqueKeys.back().emplace_back(columnText(row, 1));
                           });
    if (!read) return read;
    for (const auto& key : schema.uniqueKeys)
        if (key.size() == 1)
            if (const auto field = schema.find(key.front())) schema.fields[raw(*field)].unique = true;
    return {};
}

Result<void> readFields(sqlite3* connection, TableSchema& schema) {
    int keyColumns = 0;
    auto read =
        forEachRow(connection, "SELECT name, type, \"notnull\", dflt_value, pk, hidden FROM pragma_table_xinfo(?1)",
                   schema.name, [&](sqlite3_stmt* row) {
                       if (sqlite3_column_int(row, 5) == 1) return;  // hidden column of a virtual table
                       FieldSchema field;
                       field.name = columnText(row, 0);
                       readDeclaredType(field, columnText(row, 1));
                       field.required = sqlite3_column_int(row, 2) != 0;
                       if (sqlite3_column_type(row, 3) != SQLITE_NULL)
                           field.defaultSql = std::string(columnText(row, 3));
                       field.primaryKeyRank = sqlite3_column_int(row, 4);
                       field.generated = sqlite3_column_int(row, 5) > 1;
                       keyColumns += field.primaryKeyRank > 0 ? 1 : 0;
                       schema.fields.push_back(std::move(field));
                   });
    if (!read) return read;
    if (const auto unnamed = std::find_if(schema.fields.begin(), schema.fields.end(),
                                          [](const FieldSchema& f) { return f.name.empty(); });
        unnamed != schema.fields.end())
        return Error{ErrorCode::Unsupported,
                     fmt::format("Column {} of {} has no name. Give it one, or bind to a SELECT that does.",
                                 unnamed - schema.fields.begin() + 1, schema.name)};
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

/// What the declaration leaves open is guessed from the first values: the type of columns without one, the decimals of
/// exact numbers without a size. Loading looks at all values and widens what was guessed too narrow. A declaration that
/// none of the first values keeps to (TIMESTAMP over '2026-11-29T10:00:00+02:00') is none. Views and SELECTs, whose
/// first record may take long, are asked only when something is open.
Result<void> inferOpen(sqlite3* connection, TableSchema& schema, const std::string& select, bool isTable) {
    constexpr int kSampleRows = 200;
    if (!isTable && std::none_of(schema.fields.begin(), schema.fields.end(), isTypeOpen)) return {};
    auto statement = prepare(connection, select);
    if (!statement) return statement.error();
    std::vector<SeenValues> seen(schema.fields.size()), declared(schema.fields.size());
    std::vector<std::size_t> asked(schema.fields.size());  // fields of which more values would still tell something
    std::iota(asked.begin(), asked.end(), std::size_t{0});
    int code = SQLITE_ROW;
    for (int row = 0; row < kSampleRows && !asked.empty() && (code = sqlite3_step(statement->get())) == SQLITE_ROW;
         ++row)
        std::erase_if(asked, [&](std::size_t i) {
            const FieldSchema& field = schema.fields[i];
            const bool isDeclared = !field.declaredType.empty() && field.stored.form == StoredForm::Own;
            auto* value = sqlite3_column_value(statement->get(), static_cast<int>(i));
            if (isTypeOpen(field)) see(seen[i], value, field);
            if (isDeclared) seeDeclared(declared[i], value, field);
            return !isTypeOpen(field) && (!isDeclared || isBelieved(declared[i], field));
        });
    if (code != SQLITE_ROW && code != SQLITE_DONE) return errorOf(connection, "Reading the first records");
    for (std::size_t i = 0; i < seen.size(); ++i) {
        FieldSchema& field = schema.fields[i];
        if (fitMoment(field, declared[i])) continue;
        if (contradicts(declared[i])) {
            field.openScale = false;
            field.scale = field.precision = 0;
            fitTo(field, declared[i]);
        } else if (isTypeOpen(field)) {
            fitTo(field, seen[i]);
        }
    }
    return {};
}

/// Binary data is pictures when the first values are, whatever its name says; a name is believed where there are none,
/// and where some of them are.
Result<void> seePictures(sqlite3* connection, TableSchema& schema) {
    constexpr std::string_view kSome =
        "SELECT substr(v, 1, 512) FROM (SELECT {0} AS v FROM {1} LIMIT 200) "
        "WHERE typeof(v) = 'blob' AND length(v) BETWEEN 8 AND 2000000 LIMIT 4";
    for (FieldSchema& field : schema.fields) {
        if (field.type != Type::Binary || schema.isView) continue;
        auto statement =
            prepare(connection, fmt::format(fmt::runtime(kSome), quotedName(field.name), quotedName(schema.name)));
        if (!statement) return statement.error();
        int values = 0, pictures = 0, code = SQLITE_ROW;
        while ((code = sqlite3_step(statement->get())) == SQLITE_ROW) {
            ++values;
            pictures += pictureKind(bytesOf(sqlite3_column_value(statement->get(), 0))) ? 1 : 0;
        }
        if (code != SQLITE_DONE) return errorOf(connection, "Reading the first records");
        if (values > 0 && pictures == values) field.use = Use::Picture;
        if (values > 0 && pictures == 0 && field.use == Use::Picture) field.use = Use::Plain;
    }
    return {};
}

/// Pictures are read when they are shown, by the key of their record; parts of keys and links with the record.
void leavePictures(sqlite3* connection, TableSchema& schema) {
    const auto isPicture = [](const FieldSchema& f) { return f.use == Use::Picture && f.type == Type::Binary; };
    if (schema.isView || std::none_of(schema.fields.begin(), schema.fields.end(), isPicture)) return;
    bool hasKey = hasRowId(connection, schema);
    for (const FieldSchema& field : schema.fields) hasKey = hasKey || field.primaryKeyRank > 0;
    const auto isLink = [&](const FieldSchema& field) {
        return field.join == 0 && std::any_of(schema.foreignKeys.begin(), schema.foreignKeys.end(), [&](const auto& k) {
                   return std::find(k.fields.begin(), k.fields.end(), field.name) != k.fields.end();
               });
    };
    for (FieldSchema& field : schema.fields)
        field.unread = hasKey && isPicture(field) && field.primaryKeyRank == 0 && !isLink(field);
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
        const std::string name = quotedName(table.name);
        TableSchema named;
        named.name = table.name;
        auto fields =
            forEachRow(connection, "SELECT name FROM pragma_table_xinfo(?1)", table.name,
                       [&named](sqlite3_stmt* row) { named.fields.emplace_back().name = columnText(row, 0); });
        if (!fields) return fields.error();
        const auto id = rowIdName(named);
        if (!id) continue;
        auto span = prepare(
            connection, fmt::format("SELECT (SELECT max({0}) FROM {1}) - (SELECT min({0}) FROM {1}) + 1", *id, name));
        if (span && sqlite3_step(span->get()) == SQLITE_ROW && sqlite3_column_type(span->get(), 0) != SQLITE_NULL)
            table.aboutRows = sqlite3_column_int64(span->get(), 0);
    }
    return tables;
}

namespace {

/// What the builder said about the fields that are there; names of others wait for their table.
Result<void> applyReadAs(TableSchema& schema, const std::map<std::string, ReadAs>& readAs) {
    for (FieldSchema& field : schema.fields)
        if (const auto said = readAs.find(field.name); said != readAs.end())
            if (auto done = readFieldAs(field, said->second); !done)
                return Error{ErrorCode::InvalidInput,
                             fmt::format("{} cannot be read so: {}", field.name, done.error().message)};
    return {};
}

}  // namespace

Result<TableSchema> readTableSchema(sqlite3* connection, const std::string& table,
                                    const std::map<std::string, ReadAs>& readAs) {
    auto statement =
        prepare(connection,
                "SELECT type, name FROM sqlite_schema WHERE name = ?1 COLLATE NOCASE AND type IN ('table', "
                "'view')");
    if (!statement) return statement.error();
    bindValue(statement->get(), 1, table);
    const int found = sqlite3_step(statement->get());
    if (found != SQLITE_ROW && found != SQLITE_DONE) return errorOf(connection, "Reading the tables");
    if (found == SQLITE_DONE) {
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
    schema.name = columnText(statement->get(), 1);
    schema.isView = columnText(statement->get(), 0) == "view";
    if (auto read = readFields(connection, schema); !read) return read.error();
    if (schema.isView) {
        schema.writable = false;
        schema.whyNotWritable = fmt::format("{} is a view; edit the tables it is made of.", schema.name);
    } else {
        auto read = readUniqueKeys(connection, schema);
        if (read) read = readForeignKeys(connection, schema);
        if (read) read = readChecks(connection, schema);
        if (!read) return read.error();
    }
    if (auto applied = applyReadAs(schema, readAs); !applied) return applied.error();
    std::string columns;
    for (const FieldSchema& field : schema.fields) {
        // Any value is declared binary data: there is nothing to learn from it, and it may be large.
        const bool isSure = field.type == Type::Binary && !field.declaredType.empty();
        columns += (columns.empty() ? "" : ", ") + (isSure ? "NULL" : quotedName(field.name));
    }
    auto guessed = inferOpen(
        connection, schema,
        fmt::format("SELECT {} FROM {}", columns.empty() ? "NULL" : columns, quotedName(schema.name)), !schema.isView);
    if (!guessed) return guessed.error();
    if (auto seen = seePictures(connection, schema); !seen) return seen.error();
    return schema;
}

Result<TableSchema> readQuerySchema(sqlite3* connection, const std::string& query,
                                    const std::map<std::string, ReadAs>& readAs) {
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
        if (field.name.empty()) field.name = fmt::format("column_{}", i + 1);
        int copies = 1;
        const std::string plain = field.name;
        while (schema.find(field.name)) field.name = fmt::format("{}_{}", plain, ++copies);
        if (const char* declared = sqlite3_column_decltype(handle, i)) readDeclaredType(field, declared);
        schema.fields.push_back(std::move(field));
    }
    if (auto applied = applyReadAs(schema, readAs); !applied) return applied.error();
    if (auto guessed = inferOpen(connection, schema, query, false); !guessed) return guessed.error();
    return schema;
}

Result<TableSchema> readSchema(sqlite3* connection, const Binding& binding) {
    auto schema = binding.query.empty() ? readTableSchema(connection, binding.table, binding.readAs)
                                        : readQuerySchema(connection, binding.query, binding.readAs);
    if (!schema) return schema;
    if (binding.query.empty()) {
        const std::size_t own = schema->fields.size();
        const auto others = [connection](const std::string& table) { return readTableSchema(connection, table); };
        if (auto added = addRelated(*schema, binding.related, others); !added) return added.error();
        for (std::size_t i = own; i < schema->fields.size(); ++i)
            if (const auto said = binding.readAs.find(schema->fields[i].name); said != binding.readAs.end())
                if (auto done = readFieldAs(schema->fields[i], said->second); !done) return done.error();
    }
    if (binding.query.empty() && !binding.readsPictures) leavePictures(connection, *schema);
    schema->zone = TimeZone::named(binding.zone) ? binding.zone : std::string();  // a plan says so
    for (FieldSchema& field : schema->fields)
        if (field.type == Type::Instant) field.zone = schema->zone;
    return schema;
}

std::optional<std::string> rowIdName(const TableSchema& schema) {
    for (const char* name : {"rowid", "_rowid_", "oid"})
        if (std::none_of(schema.fields.begin(), schema.fields.end(),
                         [name](const FieldSchema& f) { return f.join == 0 && sameName(f.name, name); }))
            return name;
    // All three are columns of the table: its whole-number key, if it has one, is the row id.
    const auto isKey = [](const FieldSchema& f) { return f.join == 0 && f.primaryKeyRank > 0; };
    const auto key = std::find_if(schema.fields.begin(), schema.fields.end(), isKey);
    if (key == schema.fields.end() || std::count_if(schema.fields.begin(), schema.fields.end(), isKey) != 1 ||
        !sameName(key->declaredType, "INTEGER"))
        return std::nullopt;
    return quotedName(key->name);
}

bool hasRowId(sqlite3* connection, const TableSchema& schema) {
    if (schema.isView) return false;
    const auto name = rowIdName(schema);
    return name && prepare(connection, fmt::format("SELECT {} FROM {} LIMIT 0", *name, quotedName(schema.name))).ok();
}

}  // namespace jollyrow::sqlite
