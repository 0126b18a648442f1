// SPDX-License-Identifier: MIT
#pragma once
// Commits a transaction, and when the connection is lost meanwhile finds out what became of it, never guessing: the
// server knows of its recent transactions whether they were committed (pg_xact_status; PostgreSQL's documentation,
// 9.27.9). After a crash it may give the number of one that was lost to another, so a record that was written has to be
// as this transaction left it, too: of the same version (xmin; 5.5), or gone. Confined to the store's thread.

#include <map>
#include <string>
#include <vector>

#include "core/sources/postgres/pg_connection.h"

namespace jollyrow::postgres {

class Commit final {
  public:
    /// A transaction begins.
    void begin() { last_ = {}; }
    /// In it a record of the table was written, or deleted. `where` names it, e.g. " WHERE id = $1".
    void wrote(std::string table, std::string where, std::vector<Parameter> parameters) {
        last_ = {std::move(table), std::move(where), std::move(parameters), false, {}};
    }
    void deleted(std::string table, std::string where, std::vector<Parameter> parameters) {
        last_ = {std::move(table), std::move(where), std::move(parameters), true, {}};
    }
    /// No error: it is committed, and `connection` is another one where it was lost. An error tells whether nothing was
    /// saved or whether that cannot be known; `refusal` is the server's where it refused.
    Result<void> carryOut(Connection& connection, const std::string& address, Refusal& refusal);

  private:
    enum class Fate { Committed, NotCommitted, UnderWay, Unknown };
    /// The record that was written last.
    struct Last {
        std::string table, where;
        std::vector<Parameter> parameters;
        bool isDeleted = false;
        std::string version;  ///< xmin; "" where there is none
    };
    Result<void> note(Connection& connection);
    Result<bool> hasVersions(Connection& connection, const std::string& table);
    Result<Fate> fateOf(Connection& connection) const;
    Result<bool> isAsLeft(Connection& connection) const;

    std::string number_;  ///< of the transaction; "" where the server cannot be asked by it
    Last last_;
    std::map<std::string, bool> hasVersions_;  ///< by table
};

}  // namespace jollyrow::postgres
