// SPDX-License-Identifier: MIT
// Covered by tests/session/session_test.cpp and session_model_test.cpp.
#include "core/editing/record_journal.h"

#include <fmt/format.h>

#include <algorithm>

#include "core/formats/text_format.h"

namespace jollyrow {

void RecordJournal::begin(StoreOpener store) {
    edits_ = std::make_shared<Edits>();
    newest_.clear();
    onTheirWay_.clear();
    savedMeanwhile_.clear();
    keyMoves_.clear();
    saves_ = std::make_shared<SaveQueue>(std::move(store));
}

Value RecordJournal::stored(const Table& table, SourceRow row, FieldIndex field) const {
    if (const CellEdit* edit = edits_->find(row, field))
        return edit->state == EditState::Saved ? edit->value : edit->original;
    const Column* column = table.column(field);
    return column ? column->value(row) : Value(Empty{});
}

void RecordJournal::save(const Table& table, const TableSchema& schema, Edits::Place place) {
    Save save;
    save.serial = nextSerial_++;
    if (const auto earlier = newest_.find(place); earlier != newest_.end()) save.after = earlier->second;
    for (std::size_t k = 0; k < table.keyFields.size() && !table.rowIds; ++k)
        if (const auto part = newest_.find({place.first, table.keyFields[k]}); part != newest_.end())
            save.keyAfter.emplace_back(k, part->second);
    newest_[place] = save.serial;
    const CellEdit* edit = edits_->find(place.first, place.second);
    onTheirWay_.emplace(save.serial, OnItsWay{place, edit->value});
    if (!table.hasKeys())
        return answered_(save.serial, Error{ErrorCode::Unsupported,
                                            "These records have no key, so a change cannot be saved to one of them."});
    save.request = {schema,
                    keyOf(table, place.first),
                    table.rowIds != nullptr,
                    table.keyFields,
                    {{place.second, edit->original, edit->value}}};
    worker_.run([this, saves = saves_, save = std::move(save)] {
        const std::uint64_t serial = save.serial;
        auto answer = saves->write(save);
        post_([this, serial, answer = std::move(answer)] { answered_(serial, answer); });
    });
}

std::optional<RecordJournal::Answer> RecordJournal::take(std::uint64_t serial, const Result<StoredRecord>& answer,
                                                         const Table& table) {
    // The cell may have moved with a reload, or been typed into again.
    const auto at = onTheirWay_.find(serial);
    if (at == onTheirWay_.end()) return std::nullopt;
    const Edits::Place place = at->second.place;
    onTheirWay_.erase(at);
    const CellEdit* edit = edits_->find(place.first, place.second);
    if (!edit) return std::nullopt;
    if (answer) noteSaved(table, place, *edit, answer->values.front());
    Answer taken{place, *edit};
    const auto newest = newest_.find(place);
    taken.isNewest = newest != newest_.end() && newest->second == serial;
    if (answer) taken.edit.original = answer->values.front();
    if (taken.isNewest) {
        newest_.erase(newest);
        if (answer) taken.edit.value = taken.edit.original;
        taken.edit.state = answer ? EditState::Saved : EditState::Refused;
        taken.edit.message = answer ? std::string() : answer.error().message;
    }
    return taken;
}

/// A load under way may have read the cell before; a key that was saved names its record from now on.
void RecordJournal::noteSaved(const Table& table, Edits::Place place, const CellEdit& before, const Value& stored) {
    if (loading_) savedMeanwhile_[place].push_back(before.original);
    const auto& keys = table.keyFields;
    const auto part = std::find(keys.begin(), keys.end(), place.second);
    if (table.rowIds || part == keys.end()) return;
    const RecordKey old = keyOf(table, place.first);
    RecordKey moved = old;
    moved[static_cast<std::size_t>(part - keys.begin())] = stored;
    keyMoves_.emplace_back(old, moved);
}

void RecordJournal::loadBegun() {
    loading_ = true;
    savedMeanwhile_.clear();
}

KeysOnTheirWay RecordJournal::keysOnTheirWay(const Table& table) const {
    KeysOnTheirWay all;
    const auto isKey = [&table](const Edits::Place& place) {
        return std::find(table.keyFields.begin(), table.keyFields.end(), place.second) != table.keyFields.end();
    };
    for (const auto& [serial, save] : onTheirWay_)
        if (isKey(save.place)) all[save.place].push_back(save.value);
    // What a key was in between, too: the load may have read it then.
    for (const auto& [place, values] : savedMeanwhile_)
        if (isKey(place)) all[place].insert(all[place].end(), values.begin(), values.end());
    return all;
}

RecordJournal::ChangedOver RecordJournal::changeOver(const Table& from, const Table& to,
                                                     const std::shared_ptr<const std::vector<std::uint32_t>>& byKey,
                                                     const KeyIndex& keys) {
    ChangedOver out;
    out.moves = movesOf(byKey, from, *edits_, keysOnTheirWay(from), keys);
    CarriedEdits over = carried(*edits_, from, to, out.moves, savedMeanwhile_);
    out.lost = wordsOf(over.lost, from.schema);
    std::map<Edits::Place, std::uint64_t> newest;
    std::map<std::uint64_t, OnItsWay> onTheirWay;
    for (const auto& [place, serial] : newest_)
        if (const auto at = over.places.find(place); at != over.places.end()) newest.emplace(at->second, serial);
    for (const auto& [serial, save] : onTheirWay_)
        if (const auto at = over.places.find(save.place); at != over.places.end())
            onTheirWay.emplace(serial, OnItsWay{at->second, save.value});
    newest_ = std::move(newest);
    onTheirWay_ = std::move(onTheirWay);
    savedMeanwhile_.clear();
    edits_ = std::move(over.edits);
    return out;
}

std::vector<std::string> RecordJournal::wordsOf(const std::vector<Edits::Place>& lost,
                                                const TableSchema& schema) const {
    std::vector<std::string> all;
    for (const auto& [row, field] : lost) {
        std::string typed;
        appendDisplay(typed, edits_->find(row, field)->value, {.zone = schema.zone});
        all.push_back(fmt::format("\"{}\", typed into {} and refused, lost its place: the record is no longer there.",
                                  typed, schema.field(field).name));
    }
    return all;
}

RecordKey RecordJournal::keyNow(RecordKey key, std::size_t since) const {
    for (std::size_t i = since; i < keyMoves_.size(); ++i)
        if (keyMoves_[i].first == key) key = keyMoves_[i].second;
    return key;
}

std::optional<SourceRow> RecordJournal::editedTo(const Table& table, const RecordKey& key) const {
    if (table.rowIds) return std::nullopt;
    for (const FieldIndex field : table.keyFields)
        if (edits_->touches(field))
            for (const auto& [place, edit] : edits_->cells())
                if (place.second == field && keyOf(table, place.first) == key) return place.first;
    return std::nullopt;
}

}  // namespace jollyrow
