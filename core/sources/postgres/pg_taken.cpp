// SPDX-License-Identifier: MIT
// Rows are found level by level: what points to the record, what points to that, and so on. Covered by
// tests/sources/taken_along_test.cpp.
#include "core/sources/postgres/pg_taken.h"

#include <fmt/format.h>

#include <algorithm>

namespace jollyrow::postgres {
namespace {

/// One line a column of a foreign key, in its order. $1: the table that is pointed to.
constexpr const char* kLinks =
    "SELECT k.oid::int8, format('%I.%I', n.nspname, c.relname), CASE WHEN pg_table_is_visible(c.oid) THEN "
    "c.relname::text ELSE n.nspname || '.' || c.relname END, k.confdeltype = 'c', quote_ident(f.attname), "
    "quote_ident(p.attname), (SELECT string_agg(quote_ident(a.attname), ', ' ORDER BY a.attnum) FROM pg_attribute a "
    "WHERE a.attrelid = c.oid AND a.attnum > 0 AND NOT a.attisdropped AND a.attgenerated = ''), "
    "row_security_active(c.oid) FROM pg_constraint k "
    "JOIN pg_class c ON c.oid = k.conrelid JOIN pg_namespace n ON n.oid = c.relnamespace CROSS JOIN unnest(k.confkey, "
    "k.conkey) WITH ORDINALITY AS u(p, f, place) JOIN pg_attribute p ON p.attrelid = k.confrelid AND p.attnum = u.p "
    "JOIN pg_attribute f ON f.attrelid = k.conrelid AND f.attnum = u.f WHERE k.contype = 'f' AND k.confrelid = "
    "$1::regclass AND k.conparentid = 0 AND k.confdeltype IN ('c', 'n', 'd') ORDER BY c.oid, k.oid, u.place";
constexpr const char* kKey =
    "SELECT quote_ident(a.attname) FROM pg_index i CROSS JOIN unnest(i.indkey::int2[]) WITH ORDINALITY AS u(n, place) "
    "JOIN pg_attribute a ON a.attrelid = i.indrelid AND a.attnum = u.n WHERE i.indrelid = $1::regclass AND "
    "i.indisprimary ORDER BY u.place";

std::string paired(const std::vector<std::string>& ours, std::string_view alias, std::string_view is,
                   const std::vector<std::string>& theirs, std::string_view other) {
    std::string sql;
    for (std::size_t i = 0; i < ours.size(); ++i)
        sql += fmt::format("{}{}.{} {} {}.{}", sql.empty() ? "" : " AND ", alias, ours[i], is, other, theirs[i]);
    return sql;
}

}  // namespace

bool TakenRows::isOf(const std::string& table) const {
    return std::any_of(rows.begin(), rows.end(), [&](const Row& row) { return row.link->name == table; });
}

Result<TakenReader::Links> TakenReader::linksTo(Connection& connection, const std::string& table,
                                                const Cancel& cancel) {
    if (const auto known = links_.find(table); known != links_.end()) return known->second;
    auto found = connection.run(kLinks, {table}, cancel);
    if (!found) return found.error();
    std::vector<KeptLink> links;
    std::int64_t last = -1;
    for (int i = 0; i < found->rows(); ++i) {
        if (found->integer(i, 0) != last)
            links.push_back({found->text(i, 1),
                             found->text(i, 2),
                             found->text(i, 6),
                             {},
                             {},
                             {},
                             found->isTrue(i, 3),
                             found->isTrue(i, 7)});
        last = found->integer(i, 0);
        links.back().fields.push_back(found->text(i, 4));
        links.back().targets.push_back(found->text(i, 5));
    }
    Links all;
    for (KeptLink& link : links) {
        auto key = connection.run(kKey, {link.table}, cancel);
        if (!key) return key.error();
        for (int i = 0; i < key->rows(); ++i) link.key.push_back(key->text(i, 0));
        all.push_back(std::make_shared<const KeptLink>(std::move(link)));
    }
    return links_[table] = std::move(all);
}

Result<void> TakenReader::begin(Connection& connection, const std::string& table, const std::string& where,
                                const std::vector<Parameter>& parameters, const Cancel& cancel) {
    taken_ = std::make_shared<TakenRows>();
    deleted_.clear();
    places_.clear();
    links_.clear();
    bytes_ = 0;
    auto links = linksTo(connection, table, cancel);
    if (!links) return links.error();
    if (links->empty()) return {};
    // A statement that is refused would take the deletion with it.
    if (auto set = connection.run("SAVEPOINT taking"); !set) return set.error();
    if (auto done = take(connection, table, where, parameters, cancel); !done) {
        if (connection.isBroken() || cancel.requested() || connection.wasGivenUp()) return done;
        if (auto back = connection.run("ROLLBACK TO SAVEPOINT taking"); !back) return back.error();
        taken_->rows.clear();
        places_.clear();
        taken_->whole = false;
    }
    auto released = connection.run("RELEASE SAVEPOINT taking");
    return released ? Result<void>() : Result<void>(released.error());
}

Result<void> TakenReader::take(Connection& connection, const std::string& table, const std::string& where,
                               const std::vector<Parameter>& parameters, const Cancel& cancel) {
    auto record =
        connection.run(fmt::format("SELECT (t.*)::text, t.tableoid::text || t.ctid::text FROM {} AS t{}", table, where),
                       parameters, cancel);
    if (!record) return record.error();
    if (record->rows() == 0) return {};
    deleted_.insert(record->text(0, 1));
    const auto from = [&](const std::string& parent, const std::string& row) -> Result<void> {
        auto links = linksTo(connection, parent, cancel);
        if (!links) return links.error();
        for (const auto& link : *links)
            if (auto done = takeBy(connection, link, parent, row, cancel); !done) return done;
        return {};
    };
    if (auto done = from(table, record->text(0, 0)); !done) return done;
    for (std::size_t i = 0; i < taken_->rows.size() && taken_->whole; ++i) {
        const auto link = taken_->rows[i].link;
        const std::string row = taken_->rows[i].values;
        if (!link->deletes) continue;
        if (auto done = from(link->table, row); !done) return done;
    }
    return {};
}

/// What points to one row, held until the end of the transaction: nobody changes it in between.
Result<void> TakenReader::takeBy(Connection& connection, const std::shared_ptr<const KeptLink>& link,
                                 const std::string& parent, const std::string& row, const Cancel& cancel) {
    auto rows = connection.run(
        fmt::format(
            "SELECT (c.*)::text, c.tableoid::text || c.ctid::text FROM {} AS c, (SELECT ($1::{}).*) AS p WHERE {} "
            "FOR UPDATE OF c",
            link->table, parent, paired(link->targets, "p", "=", link->fields, "c")),
        {row}, cancel);
    if (!rows) return rows.error();
    if (link->isPartlySeen) taken_->whole = false;  // all of them go
    for (int i = 0; i < rows->rows() && taken_->whole; ++i) {
        std::string place = rows->text(i, 1);
        if (link->deletes && !deleted_.insert(place).second) continue;
        if (!link->deletes && link->key.empty()) taken_->whole = false;  // nothing would name it later
        taken_->rows.push_back({link, rows->text(i, 0), {}});
        places_.push_back(std::move(place));
        bytes_ += taken_->rows.back().values.size();
        if (taken_->rows.size() > TakenAlong::kMostRows || bytes_ > TakenAlong::kMostBytes) taken_->whole = false;
    }
    if (taken_->whole) return {};
    taken_->rows.clear();
    places_.clear();
    return {};
}

Result<std::shared_ptr<const TakenAlong>> TakenReader::finish(Connection& connection, const Cancel& cancel) {
    auto taken = std::move(taken_);
    if (!taken) return std::shared_ptr<const TakenAlong>();
    std::vector<TakenRows::Row> rows;
    for (std::size_t i = 0; i < taken->rows.size(); ++i) {
        TakenRows::Row& row = taken->rows[i];
        if (!row.link->deletes) {
            if (deleted_.contains(places_[i])) continue;
            auto now = connection.run(
                fmt::format("SELECT (t.*)::text FROM {} AS t, (SELECT ($1::{}).*) AS r WHERE {}", row.link->table,
                            row.link->table, paired(row.link->key, "t", "=", row.link->key, "r")),
                {row.values}, cancel);
            if (!now) return now.error();
            if (now->rows() != 1) continue;  // gone for another reason
            row.after = now->text(0, 0);
        }
        rows.push_back(std::move(row));
    }
    taken->rows = std::move(rows);
    if (taken->whole && taken->rows.empty()) return std::shared_ptr<const TakenAlong>();
    return std::shared_ptr<const TakenAlong>(std::move(taken));
}

std::string insertedWith(const TakenRows& taken, std::vector<Parameter>& parameters) {
    struct Into {
        std::string columns, rows;
    };
    std::map<std::string, Into> tables;
    for (const TakenRows::Row& row : taken.rows) {
        if (!row.link->deletes) continue;
        Into& into = tables[row.link->table];
        into.columns = row.link->columns;
        into.rows += into.rows.empty() ? "{\"" : ",\"";
        for (const char c : row.values) {
            if (c == '"' || c == '\\') into.rows += '\\';
            into.rows += c;
        }
        into.rows += '"';
    }
    std::string sql;
    int n = 0;
    for (auto& [table, into] : tables) {
        parameters.emplace_back(std::move(into.rows += '}'));
        sql +=
            fmt::format("{}b{} AS (INSERT INTO {} ({}) OVERRIDING SYSTEM VALUE SELECT {} FROM unnest(${}::{}[]) AS r)",
                        n == 0 ? "WITH " : ", ", n, table, into.columns, into.columns, parameters.size(), table);
        ++n;
    }
    return sql.empty() ? sql : sql + ' ';
}

Result<void> linkAgain(Connection& connection, const TakenRows& taken, const Cancel& cancel, Refusal& why) {
    for (const TakenRows::Row& row : taken.rows) {
        const KeptLink& link = *row.link;
        if (link.deletes) continue;
        std::string sets;
        for (const std::string& field : link.fields)
            sets += fmt::format("{}{} = r.{}", sets.empty() ? "" : ", ", field, field);
        const auto done = connection.run(
            fmt::format("UPDATE {} AS t SET {} FROM (SELECT ($1::{}).*) AS r, (SELECT ($2::{}).*) AS a WHERE {} AND {}",
                        link.table, sets, link.table, link.table, paired(link.key, "t", "=", link.key, "r"),
                        paired(link.fields, "t", "IS NOT DISTINCT FROM", link.fields, "a")),
            {row.values, row.after}, cancel, &why);
        if (!done) return done.error();
    }
    return {};
}

}  // namespace jollyrow::postgres
