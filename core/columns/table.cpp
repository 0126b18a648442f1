// SPDX-License-Identifier: MIT
#include "core/columns/table.h"
#include "core/base/require.h"

namespace jollyrow {

RecordKey Table::key(SourceRow row) const {
    JOLLYROW_REQUIRE(hasKeys() && raw(row) < rows);
    if (rowIds) return {rowIds->value(row)};
    RecordKey key;
    for (const FieldIndex field : keyFields) key.push_back(column(field)->value(row));
    return key;
}

std::size_t Table::byteSize() const {
    std::size_t total = rowIds ? rowIds->byteSize() : 0;
    for (const auto& column : columns) total += column ? column->byteSize() : 0;
    return total;
}

const void* Table::rowsIdentity() const {
    if (rowIds) return rowIds.get();
    const std::size_t stored = schema.storedFields();
    for (std::size_t i = 0; i < stored; ++i)
        if (columns[i]) return columns[i].get();
    return nullptr;
}

std::size_t Table::misfitCount() const {
    std::size_t total = 0;
    for (const auto& column : columns) total += column ? column->misfitCount() : 0;
    return total;
}

}  // namespace jollyrow
