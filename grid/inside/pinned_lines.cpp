// SPDX-License-Identifier: MIT
#include "grid/inside/pinned_lines.h"

#include "core/formats/text_format.h"

namespace jollyrow {

void PinnedLines::find(const Session& session) {
    const auto& snapshot = session.snapshot();
    const auto& records = session.design().grid.pinnedRecords;
    if (snapshot == snapshot_ && records == records_) return;
    snapshot_ = snapshot;
    records_ = records;
    top_.clear();
    bottom_.clear();
    if (!snapshot || !snapshot->table->hasKeys()) return;
    const Table& table = *snapshot->table;
    for (const PinnedRecord& record : records) {
        RecordKey key;
        for (std::size_t i = 0; i < record.key.size(); ++i) {
            FieldSchema field;
            field.type = Type::Integer;
            if (!table.rowIds && i < table.keyFields.size()) field = table.schema.field(table.keyFields[i]);
            if (const auto value = parseTyped(record.key[i], field)) key.push_back(*value);
        }
        const auto row = session.rowOf(key);
        const auto line = row ? snapshot->lineOf(*row) : std::nullopt;
        if (line) (record.edge == PinnedRecord::Edge::Top ? top_ : bottom_).push_back(raw(*line));
    }
}

}  // namespace jollyrow
