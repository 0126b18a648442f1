// SPDX-License-Identifier: MIT
#pragma once
// What SQLite deletes and unlinks with a record by the foreign keys of other tables, kept to the byte, and put back.

#include <sqlite3.h>

#include <cstdint>
#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "core/base/result.h"
#include "core/sources/sqlite/sqlite_links.h"

namespace jollyrow::sqlite {

struct FreeValue {
    void operator()(sqlite3_value* value) const { sqlite3_value_free(value); }
};
using KeptValue = std::unique_ptr<sqlite3_value, FreeValue>;

/// A table as rows are taken from it and put back.
struct KeptTable {
    std::string name;
    std::vector<std::string> columns;  ///< quoted; without generated ones
    std::vector<std::string> key;      ///< SQL that names one row; none: nothing does
    std::vector<Link> links;           ///< to it
};

class TakenRows final : public TakenAlong {
  public:
    /// One row: deleted, all its columns; else those of a link that was taken from it.
    struct Row {
        std::shared_ptr<const KeptTable> table;
        std::vector<std::string> fields;  ///< quoted; of an unlinked one
        std::vector<KeptValue> key, values, after;
        bool isDeleted() const { return fields.empty(); }
    };
    bool isWhole() const override { return whole; }
    bool isOf(const std::string& table) const override;

    std::vector<Row> rows;  ///< those that are pointed to before those that point to them
    bool whole = true;
};

/// Looks, in the transaction that deletes a record, at what goes with it. Confined to the store's thread.
class TakenReader final {
  public:
    explicit TakenReader(sqlite3* connection) : connection_(connection) {}
    /// Before the record is deleted. `where` names it, e.g. " WHERE id = ?1", with the parameters that `bind` sets.
    Result<void> begin(const std::string& table, const std::string& where,
                       const std::function<void(sqlite3_stmt*)>& bind);
    /// Behind the deletion; null when nothing went with it.
    Result<std::shared_ptr<const TakenAlong>> finish();

  private:
    Result<std::shared_ptr<const KeptTable>> tableOf(const std::string& name);
    Result<void> takeFrom(const KeptTable& table, const std::vector<KeptValue>& key);
    Result<void> takeBy(const Link& link, const KeptTable& parent, const std::vector<KeptValue>& key);
    Result<void> readAfter(TakenRows::Row& row);

    sqlite3* connection_;
    std::map<std::string, std::shared_ptr<const KeptTable>> tables_;
    std::int64_t schemaVersion_ = -1;
    std::shared_ptr<TakenRows> taken_;
    std::set<std::string> deleted_;  ///< tables and keys
    std::size_t bytes_ = 0;
};

/// Puts it back, within a transaction that looks at links when all is there (PRAGMA defer_foreign_keys). Words say why
/// the database does not take it; nullopt when it did.
Result<std::optional<std::string>> bringBack(sqlite3* connection, const TakenRows& taken);

}  // namespace jollyrow::sqlite
