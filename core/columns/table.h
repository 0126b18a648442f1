// SPDX-License-Identifier: MIT
#pragma once
// Table: the records of a bound source, frozen: schema, columns, key of each record, version. Immutable.

#include <memory>
#include <string>
#include <vector>

#include "core/columns/column.h"
#include "core/columns/schema.h"

namespace jollyrow {

/// What names a record at its source: the values of its key fields, or its row id.
using RecordKey = std::vector<Value>;

struct Table {
    TableSchema schema;
    /// One for each field of the schema; null for a field that was not asked for.
    std::vector<std::shared_ptr<const Column>> columns;
    /// The row id of each record where the source has one that is not a field; else null.
    std::shared_ptr<const Column> rowIds;
    /// The fields that make the key when rowIds is null; empty when records cannot be named.
    std::vector<FieldIndex> keyFields;
    std::size_t rows = 0;
    /// How many of the rows, the last ones, are no records: room for those that are inserted here. All empty.
    std::size_t spare = 0;
    /// The same with more room, where it was made while loading; shares the values. May be null (withRoom makes one).
    std::shared_ptr<const Table> roomy = nullptr;
    /// False while more records are still coming.
    bool complete = true;

    /// The records that were loaded.
    std::size_t loaded() const { return rows - spare; }
    const Column* column(FieldIndex field) const { return columns[raw(field)].get(); }
    /// The same for tables whose records are the same ones with the same numbers; for comparing only.
    const void* rowsIdentity() const;
    bool hasKeys() const { return rowIds || !keyFields.empty(); }
    /// Requires: hasKeys(), row < rows.
    RecordKey key(SourceRow row) const;
    std::size_t byteSize() const;
    std::size_t misfitCount() const;
};

}  // namespace jollyrow
