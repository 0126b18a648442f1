// SPDX-License-Identifier: MIT
// Covered by tests/session/session_test.cpp and session_model_test.cpp.
#include "core/editing/carried_edits.h"

#include <algorithm>
#include <set>

#include "core/base/require.h"

namespace jollyrow {
namespace {

/// The load has read the cell before it was saved: the newer value, which the edit knows to be stored, must stand.
bool readBefore(const Value& loaded, const Edits::Place& place, const CellEdit& edit, const SavedMeanwhile& meanwhile) {
    const auto saved = meanwhile.cells.find(place);
    const bool isOther = loaded != (edit.state == EditState::Conflict && edit.theirs ? *edit.theirs : edit.original);
    return saved != meanwhile.cells.end() && isOther &&
           std::find(saved->second.begin(), saved->second.end(), loaded) != saved->second.end();
}

/// The table read now holds `loaded` there. What was typed over another value, and is not on its way, must be decided.
void rebase(CellEdit& edit, const Value& loaded) {
    if (edit.state == EditState::Conflict && edit.theirs && loaded == edit.original) {  // they took it back
        edit.state = EditState::Draft;
        edit.theirs = nullptr;
        edit.message.clear();
        return;
    }
    const bool waits = edit.state == EditState::Draft || edit.state == EditState::Refused;
    // Typed over one that is on its way still, and was read: that is no other's.
    const bool isOwn = edit.sent && std::find(edit.sent->begin(), edit.sent->end(), loaded) != edit.sent->end();
    if (edit.state == EditState::Conflict || (waits && !isOwn && loaded != edit.original)) {
        edit.state = EditState::Conflict;
        edit.theirs = std::make_shared<const Value>(loaded);
    } else {
        edit.original = loaded;
    }
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
    const RecordFate* fate = edits.fate(row);
    const bool isMade = fate && !fate->key.empty();
    RecordKey key = isMade ? fate->key : table.key(row);
    if (table.rowIds) return key;
    for (std::size_t k = 0; k < key.size(); ++k)
        if (const CellEdit* edit = edits.find(row, table.keyFields[k]))
            key[k] = edit->state == EditState::Saved ? edit->value : edit->original;
    return key;
}

namespace {

/// Where a record whose key was edited stands: the load may have read it before or after any of the saves of its key.
std::optional<SourceRow> foundByKey(const Table& from, const Edits& edits, Edits::Place place,
                                    const KeysOnTheirWay& onTheirWay, const KeyIndex& to) {
    auto row = to.find(storedKey(from, edits, place.first));
    const auto part = static_cast<std::size_t>(std::find(from.keyFields.begin(), from.keyFields.end(), place.second) -
                                               from.keyFields.begin());
    if (const auto tried = onTheirWay.find(place); tried != onTheirWay.end())
        for (auto value = tried->second.begin(); !row && value != tried->second.end(); ++value) {
            RecordKey key = storedKey(from, edits, place.first);
            key[part] = *value;
            row = to.find(key);
        }
    return row ? row : to.find(from.key(place.first));
}

/// Where a record that was inserted here stands: the load may have read it under any key it has had since it was begun.
std::optional<SourceRow> insertedAt(const Table& from, const Edits& edits, SourceRow row,
                                    const KeysOnTheirWay& onTheirWay, const KeyIndex& to) {
    auto now = to.find(storedKey(from, edits, row));
    for (std::size_t part = 0; part < from.keyFields.size() && !from.rowIds; ++part) {
        const auto tried = onTheirWay.find({row, from.keyFields[part]});
        if (tried == onTheirWay.end()) continue;
        for (auto value = tried->second.begin(); !now && value != tried->second.end(); ++value) {
            RecordKey key = storedKey(from, edits, row);
            key[part] = *value;
            now = to.find(key);
        }
    }
    return now;
}

/// Records that were inserted here: the load has read them, or they stay apart, or they are gone again.
void addInserted(RowMoves& moves, const Table& from, const Edits& edits, const KeysOnTheirWay& onTheirWay,
                 const SavedMeanwhile& meanwhile, const KeyIndex& to) {
    if (!edits.hasFates()) return;
    edits.forEachRecord([&](SourceRow row, const RecordEdit& record) {
        // One that is being deleted stands in its spare row, too.
        if (!record.fate() || raw(row) < from.loaded()) return;
        const bool isSaved = record.change() == RecordChange::Delete || record.fate()->state == EditState::Saved;
        auto now = isSaved ? insertedAt(from, edits, row, onTheirWay, to) : std::nullopt;
        if (!now && (!isSaved || meanwhile.inserted.contains(row)))
            now = static_cast<SourceRow>(to.table()->loaded() + (raw(row) - from.loaded()));
        JOLLYROW_REQUIRE(!now || raw(*now) < to.table()->rows);
        moves.byEditedKey[row] = now.value_or(kNoRow);
    });
}

}  // namespace

RowMoves movesOf(std::shared_ptr<const std::vector<std::uint32_t>> byKey, const Table& from, const Edits& edits,
                 const KeysOnTheirWay& onTheirWay, const SavedMeanwhile& meanwhile, const KeyIndex& to) {
    RowMoves moves{std::move(byKey), {}};
    for (const FieldIndex field : from.rowIds ? std::vector<FieldIndex>{} : from.keyFields)
        if (edits.touches(field))
            edits.forEach([&](Edits::Place place, const CellEdit&) {
                if (place.second == field && raw(place.first) < from.loaded())
                    moves.byEditedKey[place.first] = foundByKey(from, edits, place, onTheirWay, to).value_or(kNoRow);
            });
    addInserted(moves, from, edits, onTheirWay, meanwhile, to);
    // A row that an edited key leads to is that record, not another one that had the key before.
    if (!moves.byEditedKey.empty() && moves.byKey) {
        std::set<std::uint32_t> taken;
        for (const auto& [before, after] : moves.byEditedKey)
            if (after != kNoRow) taken.insert(raw(after));
        auto own = std::make_shared<std::vector<std::uint32_t>>(*moves.byKey);
        for (std::uint32_t& row : *own)
            if (taken.contains(row)) row = raw(kNoRow);
        moves.byKey = std::move(own);
    }
    return moves;
}

namespace {

/// What becomes of a record's insertion or deletion; nullopt when the table read says the same by now.
std::optional<RecordFate> carriedFate(const RecordEdit& record, SourceRow before, SourceRow now, const Table& to,
                                      const SavedMeanwhile& meanwhile) {
    const RecordFate* fate = record.fate();
    if (!fate || fate->change == RecordChange::Update) return std::nullopt;
    if (fate->change == RecordChange::Insert) return raw(now) >= to.loaded() ? std::optional(*fate) : std::nullopt;
    const bool isWanted = fate->state != EditState::Saved || meanwhile.deleted.contains(before);
    if (!isWanted) return std::nullopt;
    RecordFate kept = *fate;
    if (raw(now) < to.loaded()) kept.key.clear();  // the table knows it now
    return kept;
}

}  // namespace

CarriedEdits carried(const Edits& edits, const Table& from, const Table& to, const RowMoves& moves,
                     const SavedMeanwhile& meanwhile) {
    CarriedEdits out;
    auto kept = std::make_shared<Edits>();
    const std::size_t stored = from.schema.storedFields();
    edits.forEachRecord([&](SourceRow before, const RecordEdit& record) {
        const auto row = moves.now(before);
        RecordEdit next;
        if (row) next.setFate(carriedFate(record, before, *row, to, meanwhile));
        const bool isApart = row && raw(*row) >= to.loaded();
        for (const auto& [oldField, edit] : record.cells()) {
            if (raw(oldField) >= stored) continue;  // computed cells are made again
            const Edits::Place place{before, oldField};
            const auto field = sameField(from, to, oldField);
            if (!row || !field || raw(*field) >= to.columns.size()) {
                const bool isNoLoss = record.change() == RecordChange::Delete || edit.state == EditState::Saving;
                if (isUnsaved(edit.state) && !isNoLoss) out.lost.push_back(place);
                continue;
            }
            const Column* column = to.column(*field);
            const Value loaded = column && !isApart ? column->value(*row) : Value(Empty{});
            const bool isNewer = isApart || (column && readBefore(loaded, place, edit, meanwhile));
            if (edit.state == EditState::Saved && !isNewer) continue;
            // Typed as it stands, there is nothing to save; but an earlier one may be on its way still.
            if (edit.state == EditState::Draft && !edit.sent && !isNewer && column && loaded == edit.value) continue;
            CellEdit moved = edit;
            if (!isNewer && column) rebase(moved, loaded);
            next.set(*field, std::move(moved));
            out.places.emplace(place, Edits::Place{*row, *field});
        }
        if (!row || next.isEmpty()) return;
        next.setProblems(record.problems());
        kept->setRecord(*row, std::move(next));
    });
    out.edits = std::move(kept);
    return out;
}

}  // namespace jollyrow
