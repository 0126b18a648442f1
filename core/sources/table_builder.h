// SPDX-License-Identifier: MIT
#pragma once
// TableBuilder: the column builders of one table, and the rule for when to show what has come so far.
// Confined to one thread at a time.

#include <chrono>
#include <memory>
#include <optional>
#include <vector>

#include "core/columns/column_builder.h"
#include "core/sources/source.h"

namespace jollyrow {

/// One batch of records: a chunk per wanted field (in field order) and, where there are row ids, one more at the end.
struct ChunkSet {
    std::vector<ColumnChunk> chunks;
    std::size_t rows = 0;  ///< counted apart: there may be no wanted field at all
};

class TableBuilder final {
  public:
    /// `wanted` says which fields are loaded; `withRowIds` adds the hidden row id column.
    TableBuilder(TableSchema schema, std::vector<bool> wanted, bool withRowIds, std::vector<FieldIndex> keyFields);
    /// The chunks of this text field hold codes into these texts. Before the first records.
    void giveTexts(FieldIndex field, TextArena texts);
    void reserve(std::size_t rows);
    /// Empties the set for the next batch of this table.
    void prepare(ChunkSet& set) const;
    void append(const ChunkSet& set);
    std::size_t rows() const { return rows_; }
    /// Once, when all rows are there (ColumnBuilder::settle).
    void settle();
    std::shared_ptr<const Table> share(bool complete) const;
    /// The whole table, with a twin that has room for more records where the schema can be written. The last call.
    std::shared_ptr<const Table> finish();
    /// How many records there may be, where somebody can guess; told with what is shown.
    void setAbout(std::optional<std::int64_t> about) { about_ = about; }
    /// Calls request.onPart when it is time: at once for the first rows, then at most every 200 ms.
    void show(const LoadRequest& request, std::optional<std::int64_t> total);
    double millisecondsSoFar() const;

  private:
    TableSchema schema_;
    std::vector<FieldIndex> loaded_;
    bool withRowIds_;
    std::vector<FieldIndex> keyFields_;
    std::vector<ColumnBuilder> builders_;  ///< one for each of loaded_, then the row ids
    std::size_t rows_ = 0;
    std::size_t expectedRows_ = 0;
    std::optional<std::int64_t> about_;
    std::chrono::steady_clock::time_point begun_ = std::chrono::steady_clock::now();
    std::optional<std::chrono::steady_clock::time_point> shown_;
};

}  // namespace jollyrow
