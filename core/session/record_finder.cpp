// SPDX-License-Identifier: MIT
// Covered by tests/session/session_test.cpp and session_model_test.cpp.
#include "core/session/record_finder.h"

#include <algorithm>

namespace jollyrow {

RowRef RecordFinder::refOf(SourceRow row) const {
    JOLLYROW_REQUIRE(bound_.owner.isHere() && raw(row) < bound_.table->rows);
    return {bound_.epoch, row, bound_.table->hasKeys() ? bound_.journal.keyOf(*bound_.table, row) : RecordKey{},
            bound_.journal.keyMoves()};
}

namespace {
/// False for spare rows that nobody inserted, and for records whose deletion was saved.
bool isRecord(const Table& table, const Edits& edits, SourceRow row) {
    const RecordFate* fate = edits.fate(row);
    if (fate && fate->change == RecordChange::Delete && fate->state == EditState::Saved) return false;
    const bool isHere =
        fate && fate->change != RecordChange::Update;  // inserted here, by now deleted in a draft or not
    return raw(row) < (isHere ? table.rows : table.loaded());
}
}  // namespace

std::optional<SourceRow> RecordFinder::now(const RowRef& ref) const {
    if (ref.epoch == bound_.epoch)
        return isRecord(*bound_.table, *bound_.edits(), ref.row) ? std::optional(ref.row) : std::nullopt;
    return rowOf(bound_.journal.keyNow(ref.key, ref.keyMoves));
}

std::optional<SourceRow> RecordFinder::rowOf(const RecordKey& key) const {
    // A draft has no key yet: what names it so would name any other, too.
    if (!bound_.table->hasKeys() || std::any_of(key.begin(), key.end(), [](const Value& v) { return isEmpty(v); }))
        return std::nullopt;
    if (const auto edited = bound_.journal.editedTo(*bound_.table, key)) return edited;
    const auto row = index().find(key);
    return row && isRecord(*bound_.table, *bound_.edits(), *row) && bound_.journal.keyOf(*bound_.table, *row) == key
               ? row
               : std::nullopt;
}

const KeyIndex& RecordFinder::index() const {
    if (!keys_) keys_ = std::make_shared<const KeyIndex>(bound_.table);
    return *keys_;
}

}  // namespace jollyrow
