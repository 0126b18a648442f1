// SPDX-License-Identifier: MIT
// Covered by tests/sources/server_faults_test.cpp.
#include "core/sources/postgres/pg_commit.h"

#include <fmt/format.h>

#include <chrono>
#include <thread>

namespace jollyrow::postgres {

Result<void> Commit::carryOut(Connection& connection, const std::string& address, Refusal& refusal) {
    if (auto noted = note(connection); !noted) return noted.error();
    if (auto done = connection.run("COMMIT", {}, {}, &refusal); done) {
        // Of a transaction that has failed before, COMMIT is a ROLLBACK, and no error.
        if (std::string_view(pq().PQcmdStatus(done->get())) == "COMMIT") return {};
        return Error{ErrorCode::Refused, "The database took this back instead of keeping it. Nothing was saved."};
    }
    if (!connection.isBroken()) return refusal.error;
    const Error nothing{ErrorCode::Io, "The connection to the server was lost, and nothing was saved. Save again."};
    const Error unknown{
        ErrorCode::Io,
        "The connection to the server was lost while it was saving, and it cannot be asked whether it did. Read "
        "the records again before you save them."};
    constexpr int kUnreachable = 20, kUnderWay = 240;  // tries
    for (int silent = 0, busy = 0; silent < kUnreachable && busy < kUnderWay;) {
        if (silent + busy > 0) std::this_thread::sleep_for(std::chrono::milliseconds(250));
        const auto fate = fateOf(connection);
        if (!fate) {
            ++silent;
            if (auto again = Connection::open(address)) connection = std::move(*again);
        } else if (*fate == Fate::Committed) {
            return {};
        } else if (*fate == Fate::UnderWay) {
            ++busy;  // the server has not noticed yet that nobody listens
        } else {
            return *fate == Fate::NotCommitted ? nothing : unknown;
        }
    }
    return unknown;
}

/// By what the transaction can be known again.
Result<void> Commit::note(Connection& connection) {
    number_.clear();
    // A server before 13 knows its transactions by a shorter number, which comes round.
    if (pq().PQserverVersion(connection.get()) < 130000) return {};
    const bool asks = !last_.table.empty() && !last_.isDeleted;
    const auto has = asks ? hasVersions(connection, last_.table) : Result<bool>(false);
    if (!has) return has.error();
    const std::string version = *has ? fmt::format("(SELECT xmin::text FROM {}{})", last_.table, last_.where) : "NULL";
    auto noted = connection.run(fmt::format("SELECT pg_current_xact_id_if_assigned()::text, {}", version),
                                *has ? last_.parameters : std::vector<Parameter>());
    if (!noted) return noted.error();
    if (!noted->isNull(0, 0)) number_ = noted->text(0, 0);
    if (!noted->isNull(0, 1)) last_.version = noted->text(0, 1);
    return {};
}

/// Records of foreign tables, and of some that are kept otherwise, have none, and asking would end the transaction; so
/// would asking by a role that may read some columns only.
Result<bool> Commit::hasVersions(Connection& connection, const std::string& table) {
    if (const auto known = hasVersions_.find(table); known != hasVersions_.end()) return known->second;
    auto answer = connection.run(
        "WITH RECURSIVE parts AS (SELECT $1::regclass::oid AS part UNION ALL SELECT i.inhrelid FROM pg_inherits AS i "
        "JOIN "
        "parts ON i.inhparent = part) SELECT has_table_privilege($1::regclass, 'SELECT') AND NOT EXISTS (SELECT FROM "
        "parts "
        "JOIN pg_class AS c ON c.oid = part LEFT JOIN pg_am AS a ON a.oid = c.relam WHERE c.relkind <> 'p' AND "
        "(c.relkind <> 'r' OR a.amname <> 'heap'))",
        {table});
    if (!answer) return answer.error();
    return hasVersions_[table] = answer->isTrue(0, 0);
}

Result<Commit::Fate> Commit::fateOf(Connection& connection) const {
    if (number_.empty()) return Fate::Unknown;
    Refusal refusal;
    auto status = connection.run("SELECT pg_xact_status($1::xid8)", {number_}, {}, &refusal);
    constexpr const char* kInTheFuture = "22023";  // a crash has taken it back, and no other has the number yet
    if (!status && refusal.state == kInTheFuture) return Fate::NotCommitted;
    if (!status) return status.error();
    if (status->isNull(0, 0)) return Fate::Unknown;  // so long ago that it is forgotten
    if (status->bytes(0, 0) == "aborted") return Fate::NotCommitted;
    if (status->bytes(0, 0) != "committed") return Fate::UnderWay;
    auto isIts = isAsLeft(connection);
    if (!isIts && connection.isBroken()) return isIts.error();
    return isIts && *isIts ? Fate::Committed : Fate::Unknown;
}

Result<bool> Commit::isAsLeft(Connection& connection) const {
    if (!last_.isDeleted && last_.version.empty()) return false;
    auto row = connection.run(
        fmt::format("SELECT {} FROM {}{}", last_.isDeleted ? "1" : "xmin::text", last_.table, last_.where),
        last_.parameters);
    if (!row) return row.error();
    return last_.isDeleted ? row->rows() == 0 : row->rows() == 1 && row->text(0, 0) == last_.version;
}

}  // namespace jollyrow::postgres
