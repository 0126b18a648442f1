// SPDX-License-Identifier: MIT
#pragma once
// Whether a record is known well enough to be made again as it was.

#include "core/columns/edits.h"
#include "core/columns/table.h"

namespace jollyrow {

/// False when the database holds more of the record than is here, or what could not be written back: pictures and other
/// binary data that were not read. O(fields).
inline bool isKnownWhole(const Table& table, const Edits* edits, SourceRow row) {
    for (std::size_t i = 0; i < table.schema.storedFields(); ++i) {
        const auto index = static_cast<FieldIndex>(i);
        const FieldSchema& field = table.schema.fields[i];
        if (field.join != 0 || field.generated) continue;
        const CellEdit* edit = edits ? edits->find(row, index) : nullptr;
        const Column* column = table.column(index);
        if (!edit && !column) return false;
        const Value value = edit ? edit->value : column->value(row);
        const auto* odd = std::get_if<Unfit>(&value);
        if (std::holds_alternative<Unread>(value) || (odd && odd->stored == Stored::Blob)) return false;
    }
    return true;
}

}  // namespace jollyrow
