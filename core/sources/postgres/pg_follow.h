// SPDX-License-Identifier: MIT
#pragma once
// What others save on a server: a trigger of the builder's tells the keys (NOTIFY), the records are read again by them.

#include <set>
#include <string>
#include <vector>

#include "core/sources/postgres/pg_connection.h"
#include "core/sources/source.h"

namespace jollyrow::postgres {

/// Listens on a connection that others use between its calls. Confined to its thread.
class Follower final {
  public:
    /// Store::seenElsewhere(). `connection` may be another one each time: then it begins anew.
    Result<SeenElsewhere> look(Connection& connection, const TableSchema& schema,
                               const std::vector<FieldIndex>& keyFields);

  private:
    Result<void> listen(Connection& connection, const TableSchema& schema);
    /// The key as texts, in the order of the fields; empty for what is about another table, nullopt for what cannot be
    /// read.
    static std::optional<std::vector<std::string>> keyIn(const std::string& payload, const TableSchema& schema,
                                                         const std::vector<FieldIndex>& keyFields);
    /// The records of these keys as they are now.
    static Result<std::vector<ElsewhereChange>> read(Connection& connection, const TableSchema& schema,
                                                     const std::vector<FieldIndex>& keyFields,
                                                     const std::set<std::vector<std::string>>& keys);

    int listensOn_ = 0;  ///< the server's number of the connection
    std::string table_;
};

}  // namespace jollyrow::postgres
