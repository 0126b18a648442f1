// SPDX-License-Identifier: MIT
#pragma once
// Related tables in memory: the key and the wanted fields of each table that a load joins, read once in the table's own
// order, so that a record finds its partner without another look into the database. Used by sqlite_load only.

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <unordered_map>
#include <utility>
#include <vector>

#include "core/base/cancel.h"
#include "core/base/result.h"
#include "core/columns/column.h"
#include "core/columns/column_chunk.h"
#include "core/sources/source.h"
#include "core/sources/sqlite_connection.h"

namespace jollyrow::sqlite {

/// Finds a record by the values of its key as the database finds the parent of a foreign key: the value is taken to
/// the affinity of the key's column and compared by that column's collation (sqlite.org/foreignkeys.html, 3). So 7
/// finds '7' in a TEXT key and never '007'. Built by one thread, then read by any.
class ParentIndex final {
  public:
    struct Part {
        enum class Affinity : std::uint8_t { Text, Number, None } affinity = Affinity::None;
        enum class Collation : std::uint8_t { Binary, NoCase, RightTrim } collation = Collation::Binary;
    };
    /// The key of this table; fails when it has no such columns.
    static Result<ParentIndex> of(sqlite3* connection, const std::string& table,
                                  const std::vector<std::string>& columns);

    /// The key of one more record stands at these columns of the row; the first record with a key keeps it.
    void add(sqlite3_stmt* row, const std::vector<int>& at, std::uint32_t record);
    /// Of the values at these columns; nullopt when one is NULL or no record has that key.
    std::optional<std::uint32_t> find(sqlite3_stmt* row, const std::vector<int>& at) const;

  private:
    bool writeKey(sqlite3_stmt* row, const std::vector<int>& at, std::string& out) const;
    std::optional<std::int64_t> wholeNumber(sqlite3_stmt* row, const std::vector<int>& at) const;

    std::vector<Part> parts_;
    bool isOneNumber_ = false;
    std::unordered_map<std::int64_t, std::uint32_t> odd_;  ///< whole numbers outside `places_`
    std::vector<std::uint32_t> places_;                    ///< by key less `low_`: record + 1, 0 = none
    std::int64_t low_ = 0;
    StringTable keys_;                    ///< all other keys, written as bytes
    std::vector<std::uint32_t> records_;  ///< of each of keys_
};

class JoinedTables final {
  public:
    static constexpr std::uint32_t kNone = 0xffffffff;
    /// For each record of a batch and each join the record of the joined table, or kNone.
    using Partners = std::vector<std::vector<std::uint32_t>>;

    /// Reads the tables that the wanted fields are joined from; `connection` is inside its transaction.
    static Result<JoinedTables> read(sqlite3* connection, const TableSchema& schema, const std::vector<bool>& wanted,
                                     const Cancel& cancel);

    bool empty() const { return roots_.empty(); }
    /// Joins that hang on the table itself, as places in schema.joins.
    const std::vector<std::size_t>& roots() const { return roots_; }
    /// The texts that the codes of a field mean; null when it is no text.
    const TextArena* textsOf(FieldIndex field) const;

    void clear(Partners& partners) const;
    /// The next record's partner in the n-th root, whose key stands at these columns.
    void addPartner(Partners& partners, std::size_t root, sqlite3_stmt* row, const std::vector<int>& at) const;
    /// Partners of partners; once a batch, after all its records.
    void follow(Partners& partners) const;
    /// The field's value for each record of the batch.
    void gather(FieldIndex field, const Partners& partners, ColumnChunk& into) const;

  private:
    struct Related {
        bool wanted = false;
        std::optional<ParentIndex> index;
        std::vector<std::size_t> children;                ///< joins that hang on this one
        std::vector<std::vector<std::uint32_t>> childOf;  ///< by child: each record's partner in it
    };
    struct Values {
        std::size_t join = 0;
        std::shared_ptr<const Column> column;
        std::optional<TextDictionary> texts;
    };
    Result<void> readOne(sqlite3* connection, const TableSchema& schema, const std::vector<bool>& wanted,
                         std::size_t join, const Cancel& cancel);

    std::vector<Related> related_;  ///< by join
    std::vector<std::size_t> roots_;
    std::unordered_map<std::uint32_t, Values> values_;  ///< by field
};

}  // namespace jollyrow::sqlite
