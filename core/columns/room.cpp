// SPDX-License-Identifier: MIT
// Covered by tests/columns/room_test.cpp.
#include "core/columns/room.h"

#include "core/columns/column_builder.h"

namespace jollyrow {
namespace {

void addValue(ColumnChunk& chunk, const Column& column, SourceRow row) {
    if (column.isEmpty(row)) {
        const auto odd = column.misfits(raw(row), 1);
        odd.empty() ? chunk.addEmpty() : chunk.addMisfit(odd[0].text, odd[0].stored);
    } else if (column.type() == Type::Real) {
        chunk.addReal(column.real(row));
    } else if (isBytes(column.type())) {
        chunk.addText(column.text(row));
    } else {
        chunk.addWide(column.type() == Type::Decimal ? column.decimal(row).mantissa : Int128{column.integer(row)});
    }
}

bool isRecord(const RecordFate* fate) {
    if (!fate || fate->change == RecordChange::Update) return false;
    return fate->change == RecordChange::Insert || fate->state != EditState::Saved;  // deleted in a draft, it is there
}

}  // namespace

std::shared_ptr<const Column> copied(const Column& column, std::size_t rows, std::size_t empties) {
    ColumnBuilder builder(column.type(), column.scale());
    builder.setUnread(column.isUnread());
    builder.setUnpadded(column.isUnpadded());
    builder.reserve(rows + empties);
    ColumnChunk chunk;
    constexpr std::size_t kBatchRows = 16'384;
    for (std::size_t begin = 0; begin < rows + empties; begin += kBatchRows) {
        chunk.reset(column.type(), column.scale(), builder.prefersArena());
        for (std::size_t i = begin; i < std::min(begin + kBatchRows, rows + empties); ++i)
            i < rows ? addValue(chunk, column, static_cast<SourceRow>(i)) : chunk.addEmpty();
        builder.append(chunk);
    }
    return builder.share();
}

std::shared_ptr<const Table> withRoom(const Table& table, std::size_t more) {
    if (table.spare == 0 && table.roomy && table.roomy->spare >= more) return table.roomy;
    auto roomy = std::make_shared<Table>(table);
    roomy->roomy = nullptr;
    roomy->rows += more;
    roomy->spare += more;
    for (auto& column : roomy->columns)
        if (column) column = copied(*column, table.rows, more);
    if (roomy->rowIds) roomy->rowIds = copied(*roomy->rowIds, table.rows, more);
    return roomy;
}

std::vector<std::uint32_t> absentRows(const Table& table, const Edits* edits) {
    std::vector<std::uint32_t> absent;
    auto spare = static_cast<std::uint32_t>(table.loaded());
    const auto passTo = [&](std::size_t end) {
        for (; spare < end; ++spare) absent.push_back(spare);
    };
    // Records come in rising order, spare rows last.
    if (edits && edits->hasFates())
        edits->forEachRecord([&](SourceRow row, const RecordEdit& record) {
            const RecordFate* fate = record.fate();
            if (raw(row) >= table.rows) return;
            if (raw(row) < table.loaded()) {
                if (fate && fate->change == RecordChange::Delete && fate->state == EditState::Saved)
                    absent.push_back(raw(row));
            } else if (isRecord(fate)) {
                passTo(raw(row));
                spare = raw(row) + 1;
            }
        });
    passTo(table.rows);
    return absent;
}

std::optional<SourceRow> freeRow(const Table& table, const Edits& edits) {
    for (std::size_t i = table.loaded(); i < table.rows; ++i)
        if (const auto row = static_cast<SourceRow>(i); !edits.record(row)) return row;
    return std::nullopt;
}

}  // namespace jollyrow
