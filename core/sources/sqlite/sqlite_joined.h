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
#include "core/sources/sqlite/sqlite_connection.h"

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
    /// The keys of many records that look for a partner, noted before the partners' table need be known.
    class Keys {
      public:
        void clear();

      private:
        friend class ParentIndex;
        enum class Kind : std::uint8_t { None, Number, Other };
        std::vector<Kind> kinds_;
        std::vector<std::int64_t> numbers_;
        std::vector<std::string> others_;  ///< of Kind::Other, in their order
        struct Odd {
            std::uint32_t record;
            std::optional<std::int64_t> number;
            std::string bytes;
        };
        std::vector<Odd> odd_;  ///< beside a chunk of whole numbers
    };

    /// The key of this table; fails when it has no such columns.
    static Result<ParentIndex> of(sqlite3* connection, const std::string& table,
                                  const std::vector<std::string>& columns);

    /// The key of one more record stands at these columns of the row; the first record with a key keeps it.
    void add(sqlite3_stmt* row, const std::vector<int>& at, std::uint32_t record);
    /// Of the values at these columns; nullopt when one is NULL or no record has that key.
    std::optional<std::uint32_t> find(sqlite3_stmt* row, const std::vector<int>& at) const;
    /// The values at these columns, for later. Any thread, also while records are added.
    void note(sqlite3_stmt* row, const std::vector<int>& at, Keys& keys) const;
    /// The record of each key noted, or `none`.
    void findAll(const Keys& keys, std::uint32_t none, std::vector<std::uint32_t>& records) const;

    /// The key is one number: a chunk of whole numbers has most of what is to be noted already.
    bool isOneNumber() const { return isOneNumber_; }
    /// What the chunk holds as a misfit, of this record of the batch.
    void noteOdd(sqlite3_stmt* row, const std::vector<int>& at, std::uint32_t record, Keys& keys) const;
    void findAll(const ColumnChunk& numbers, const Keys& keys, std::uint32_t none,
                 std::vector<std::uint32_t>& records) const;

  private:
    bool writeKey(sqlite3_stmt* row, const std::vector<int>& at, std::string& out) const;
    std::optional<std::int64_t> wholeNumber(sqlite3_stmt* row, const std::vector<int>& at) const;
    std::optional<std::uint32_t> findNumber(std::int64_t number) const;
    std::optional<std::uint32_t> findBytes(std::string_view key) const;

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

    /// By root: the keys of a batch's records.
    using Keys = std::vector<ParentIndex::Keys>;

    /// The tables that the wanted fields are joined from, not read yet.
    static Result<JoinedTables> of(sqlite3* connection, const TableSchema& schema, const std::vector<bool>& wanted);
    /// Reads them; `connection` is inside its transaction. Keys may be noted by others meanwhile.
    Result<void> fill(sqlite3* connection, const TableSchema& schema, const std::vector<bool>& wanted,
                      const Cancel& cancel);
    /// There is nothing to read (any more).
    bool isFilled() const { return filled_; }

    bool empty() const { return roots_.empty(); }
    /// Joins that hang on the table itself, as places in schema.joins.
    const std::vector<std::size_t>& roots() const { return roots_; }
    /// The texts that the codes of a field mean; null when it is no text.
    const TextArena* textsOf(FieldIndex field) const;

    void clear(Keys& keys) const;
    const ParentIndex& index(std::size_t root) const { return *related_[roots_[root]].index; }
    /// The partners of a batch's records, and their partners. `numbers`: by root the chunk that holds its keys, or null
    /// when they were noted. Requires: isFilled().
    void findPartners(const std::vector<const ColumnChunk*>& numbers, const Keys& keys, Partners& partners) const;
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

    bool filled_ = true;            ///< nothing is wanted until of() says so
    std::vector<Related> related_;  ///< by join
    std::vector<std::size_t> roots_;
    std::unordered_map<std::uint32_t, Values> values_;  ///< by field
};

}  // namespace jollyrow::sqlite
