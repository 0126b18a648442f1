// SPDX-License-Identifier: MIT
// Covered by tests/session/session_test.cpp and session_model_test.cpp.
#include "core/editing/carried_edits.h"

#include <algorithm>

namespace jollyrow {
namespace {

/// The load has read the cell before it was saved: the newer value, which the edit knows to be stored, must stand.
bool readBefore(const Value& loaded, const Edits::Place& place, const CellEdit& edit, const SavedMeanwhile& meanwhile) {
    const auto saved = meanwhile.find(place);
    return saved != meanwhile.end() && loaded != edit.original &&
           std::find(saved->second.begin(), saved->second.end(), loaded) != saved->second.end();
}

std::optional<FieldIndex> sameField(const Table& from, const Table& to, FieldIndex field) {
    return to.schema.find(from.schema.field(field).name);
}

}  // namespace

std::optional<SourceRow> RowMoves::now(SourceRow before) const {
    if (const auto edited = byEditedKey.find(before); edited != byEditedKey.end())
        return edited->second == kNoRow ? std::nullopt : std::optional(edited->second);
    if (!byKey || raw(before) >= byKey->size() || (*byKey)[raw(before)] == raw(kNoRow)) return std::nullopt;
    return static_cast<SourceRow>((*byKey)[raw(before)]);
}

RecordKey storedKey(const Table& table, const Edits& edits, SourceRow row) {
    RecordKey key = table.key(row);
    if (table.rowIds) return key;
    for (std::size_t k = 0; k < key.size(); ++k)
        if (const CellEdit* edit = edits.find(row, table.keyFields[k]))
            key[k] = edit->state == EditState::Saved ? edit->value : edit->original;
    return key;
}

RowMoves movesOf(std::shared_ptr<const std::vector<std::uint32_t>> byKey, const Table& from, const Edits& edits,
                 const KeysOnTheirWay& onTheirWay, const KeyIndex& to) {
    RowMoves moves{std::move(byKey), {}};
    for (const FieldIndex field : from.rowIds ? std::vector<FieldIndex>{} : from.keyFields)
        for (const auto& [place, edit] : edits.cells()) {
            if (place.second != field) continue;
            // The load may have read the record before or after any of the saves of its key.
            auto row = to.find(storedKey(from, edits, place.first));
            const auto part = static_cast<std::size_t>(std::find(from.keyFields.begin(), from.keyFields.end(), field) -
                                                       from.keyFields.begin());
            if (const auto tried = onTheirWay.find(place); tried != onTheirWay.end())
                for (auto value = tried->second.begin(); !row && value != tried->second.end(); ++value) {
                    RecordKey key = storedKey(from, edits, place.first);
                    key[part] = *value;
                    row = to.find(key);
                }
            if (!row) row = to.find(from.key(place.first));
            moves.byEditedKey[place.first] = row.value_or(kNoRow);
        }
    // A row that an edited key leads to is that record, not another one that had the key before.
    if (!moves.byEditedKey.empty() && moves.byKey) {
        auto own = std::make_shared<std::vector<std::uint32_t>>(*moves.byKey);
        for (std::uint32_t& row : *own)
            for (const auto& [before, after] : moves.byEditedKey)
                if (row == raw(after) && after != kNoRow) row = raw(kNoRow);
        moves.byKey = std::move(own);
    }
    return moves;
}

CarriedEdits carried(const Edits& edits, const Table& from, const Table& to, const RowMoves& moves,
                     const SavedMeanwhile& meanwhile) {
    CarriedEdits out;
    auto kept = std::make_shared<Edits>();
    const std::size_t stored = from.schema.storedFields();
    for (const auto& [place, edit] : edits.cells()) {
        if (raw(place.second) >= stored) continue;  // computed cells are made again
        const auto row = moves.now(place.first);
        const auto field = sameField(from, to, place.second);
        if (!row || !field || raw(*field) >= to.columns.size()) {
            if (edit.state == EditState::Refused) out.lost.push_back(place);
            continue;
        }
        const Column* column = to.column(*field);
        const Value loaded = column ? column->value(*row) : Value(Empty{});
        const bool isNewer = column && readBefore(loaded, place, edit, meanwhile);
        if (edit.state == EditState::Saved && !isNewer) continue;
        CellEdit moved = edit;
        if (!isNewer && column) moved.original = loaded;
        kept->set(*row, *field, std::move(moved));
        out.places.emplace(place, Edits::Place{*row, *field});
    }
    out.edits = std::move(kept);
    return out;
}

}  // namespace jollyrow
