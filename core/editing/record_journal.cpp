// SPDX-License-Identifier: MIT
// Covered by tests/session/session_test.cpp and session_model_test.cpp.
#include "core/editing/record_journal.h"

#include <fmt/format.h>

#include <algorithm>

#include "core/editing/edit_history.h"
#include "core/formats/text_format.h"

namespace jollyrow {
namespace {

/// Fields of the table itself that can be read again with a record.
std::vector<FieldIndex> ownFields(const Table& table) {
    std::vector<FieldIndex> fields;
    for (std::size_t i = 0; i < table.schema.storedFields() && i < table.columns.size(); ++i) {
        const FieldSchema& field = table.schema.fields[i];
        if (table.columns[i] && field.join == 0 && !field.unread) fields.push_back(static_cast<FieldIndex>(i));
    }
    return fields;
}

bool isToSave(const CellEdit& edit) { return edit.state == EditState::Draft || edit.state == EditState::Refused; }

/// What somebody else has made of a field, as far as the conflict tells; null of a record that is gone.
std::shared_ptr<const Value> theirsOf(std::span<const std::optional<FieldIndex>> readBack, const Conflict& conflict,
                                      FieldIndex field, const CellEdit& edit) {
    if (conflict.isGone()) return edit.theirs;
    for (const Conflict::Field& one : conflict.fields)
        if (one.field == field) return std::make_shared<const Value>(one.stored);
    if (edit.theirs) return edit.theirs;
    // Another field, or the version, is what somebody has changed: this one stands as it was read then.
    for (std::size_t i = 0; i < conflict.readBack.size(); ++i)
        if (readBack[i] == field) return std::make_shared<const Value>(conflict.readBack[i]);
    return std::make_shared<const Value>(edit.original);
}

/// Of edits that a reload left without a record.
std::vector<std::string> wordsOf(const std::vector<Edits::Place>& lost, const Edits& edits, const TableSchema& schema) {
    std::vector<std::string> all;
    for (const auto& [row, field] : lost) {
        const CellEdit& edit = *edits.find(row, field);
        std::string typed;
        appendDisplay(typed, edit.value, {.zone = schema.zone});
        all.push_back(fmt::format("\"{}\", typed into {} and {}, lost its place: the record is no longer there.", typed,
                                  schema.field(field).name,
                                  edit.state == EditState::Refused ? "refused" : "not saved"));
    }
    return all;
}

}  // namespace

void RecordJournal::begin(StoreOpener store) {
    edits_ = std::make_shared<Edits>();
    newest_.clear();
    inserting_.clear();
    newestOf_.clear();
    onTheirWay_.clear();
    savedMeanwhile_ = {};
    keyMoves_.clear();
    sharedSchema_.reset();
    saves_ = std::make_shared<SaveQueue>(std::move(store));
}

void RecordJournal::look(const Table& table, std::function<void(const Result<SeenElsewhere>&)> seen) {
    if (!sharedSchema_ || !(*sharedSchema_ == table.schema))
        sharedSchema_ = std::make_shared<const TableSchema>(table.schema);
    worker_.run([this, saves = saves_, schema = sharedSchema_, keyFields = table.keyFields, seen = std::move(seen)] {
        post_([seen, answer = saves->look(*schema, keyFields)] { seen(answer); });
    });
}

Value RecordJournal::stored(const Table& table, SourceRow row, FieldIndex field) const {
    if (const CellEdit* edit = edits_->find(row, field))
        return edit->state == EditState::Saved ? edit->value : edit->original;
    const Column* column = table.column(field);
    return column ? column->value(row) : Value(Empty{});
}

bool RecordJournal::isStored(SourceRow row) const {
    const RecordFate* fate = edits_->fate(row);
    return !fate || fate->change != RecordChange::Insert || fate->state == EditState::Saved;
}

/// What of a record is to be saved, if anything is; marks it as on its way.
std::optional<RecordSave> RecordJournal::saveOf(const Table& table, SourceRow row, RecordEdit& edit, OnItsWay& way) {
    const RecordFate* fate = edit.fate();
    if (fate && fate->state == EditState::Conflict) return std::nullopt;
    RecordSave save;
    const bool isWhole = fate && (fate->state == EditState::Draft || fate->state == EditState::Refused);
    save.request.change = way.change = isWhole ? fate->change : RecordChange::Update;
    way.row = row;
    const auto add = [&](FieldIndex field, Value before, Value after) {
        OnItsWay::Cell cell{field, after, nextSerial_++};
        const auto earlier = newest_.find({row, field});
        save.cells.push_back({cell.id, earlier == newest_.end() ? 0 : earlier->second});
        save.request.changes.push_back({field, std::move(before), std::move(after)});
        way.cells.push_back(std::move(cell));
    };
    std::vector<FieldIndex> own = ownFields(table);
    if (way.change == RecordChange::Delete) {
        // As it is believed to stand: a record that somebody else has changed is not deleted unseen.
        for (const FieldIndex field : own)
            if (const Value before = stored(table, row, field); !std::holds_alternative<Unfit>(before))
                add(field, before, {});
        own.clear();
    } else {
        const std::vector<RecordEdit::Cell> cells = edit.cells();
        const bool hasConflict = std::any_of(cells.begin(), cells.end(), [](const RecordEdit::Cell& cell) {
            return cell.second.state == EditState::Conflict;
        });
        if (hasConflict) return std::nullopt;
        for (const auto& [field, cell] : cells) {
            if (!isToSave(cell)) continue;
            CellEdit sent = cell;
            sent.state = EditState::Saving;
            std::vector<Value> all = cell.sent ? *cell.sent : std::vector<Value>{};
            all.push_back(cell.value);
            sent.sent = std::make_shared<const std::vector<Value>>(std::move(all));
            sent.message.clear();
            edit.set(field, std::move(sent));
            add(field, cell.original, cell.value);
        }
        if (way.change == RecordChange::Update && way.cells.empty()) return std::nullopt;
    }
    if (isWhole) {
        RecordFate sent = *fate;
        save.request.bringsBack = sent.bringsBack;
        sent.state = EditState::Saving;
        sent.message.clear();
        edit.setFate(std::move(sent));
    }
    save.id = way.id = nextSerial_++;
    way.readBack.assign(own.begin(), own.end());
    save.request.readBack = std::move(own);
    save.request.keyIsRowId = table.rowIds != nullptr;
    save.request.keyFields = table.rowIds ? std::vector<FieldIndex>{} : table.keyFields;
    if (way.change != RecordChange::Insert) nameRecord(table, row, save);
    return save;
}

/// By which key and version the store finds it: as they are known, or as saves that have no answer leave them.
void RecordJournal::nameRecord(const Table& table, SourceRow row, RecordSave& save) const {
    if (const auto version = versionField_.empty() ? std::nullopt : table.schema.find(versionField_);
        version && raw(*version) < table.columns.size() && table.column(*version)) {
        save.request.version = FieldChange{*version, stored(table, row, *version), {}};
        if (const auto before = newestOf_.find(row); before != newestOf_.end()) save.versionAfter = before->second;
    }
    if (const auto inserting = inserting_.find(row); inserting != inserting_.end()) save.insertedBy = inserting->second;
    save.request.key = table.hasKeys() ? keyOf(table, row) : RecordKey{};
    for (std::size_t k = 0; k < table.keyFields.size() && !table.rowIds; ++k)
        if (const auto part = newest_.find({row, table.keyFields[k]}); part != newest_.end())
            save.keyAfter.emplace_back(k, part->second);
}

std::uint64_t RecordJournal::save(const Table& table, std::span<const SourceRow> rows, Atomicity atomicity,
                                  std::shared_ptr<JointSave> joint) {
    Save save;
    save.serial = nextSerial_++;
    save.atomicity = atomicity;
    auto next = std::make_shared<Edits>(*edits_);
    std::vector<OnItsWay> ways;
    for (const SourceRow row : rows) {
        const RecordEdit* known = next->record(row);
        if (!known) continue;
        RecordEdit edit = *known;
        OnItsWay way;
        auto one = saveOf(table, row, edit, way);
        if (!one) continue;
        next->setRecord(row, std::move(edit));
        for (const OnItsWay::Cell& cell : way.cells) newest_[{row, cell.field}] = cell.id;
        if (way.change == RecordChange::Insert) inserting_[row] = way.id;
        newestOf_[row] = way.id;
        ways.push_back(std::move(way));
        save.records.push_back(std::move(*one));
    }
    if (ways.empty()) return 0;
    edits_ = std::move(next);
    if (!sharedSchema_ || !(*sharedSchema_ == table.schema))
        sharedSchema_ = std::make_shared<const TableSchema>(table.schema);
    for (RecordSave& record : save.records) record.request.schema = sharedSchema_;
    const std::uint64_t serial = save.serial;
    std::vector<SourceRow> saved;
    for (const OnItsWay& way : ways) saved.push_back(way.row);
    if (preparing_) save.notes = preparing_(saved);
    onTheirWay_.emplace(serial, std::move(ways));
    save.oldest = onTheirWay_.begin()->first;
    if (!table.hasKeys()) {
        if (joint) joint->giveUp({ErrorCode::Unsupported, "Records of another grid have no key."});
        answered_(serial, Error{ErrorCode::Unsupported,
                                "These records have no key, so a change cannot be saved to one of them."});
        return serial;
    }
    if (joint) joint->join();
    save.joint = std::move(joint);
    worker_.run([this, saves = saves_, save = std::move(save)]() mutable {
        const std::uint64_t number = save.serial;
        auto answers = saves->write(std::move(save));
        post_([this, number, answers = std::move(answers)] { answered_(number, answers); });
    });
    return serial;
}

bool RecordJournal::isNewest(const OnItsWay& way, const OnItsWay::Cell& cell) const {
    const auto newest = newest_.find({way.row, cell.field});
    return newest != newest_.end() && newest->second == cell.id;
}

void RecordJournal::forget(const OnItsWay& way) {
    for (const OnItsWay::Cell& cell : way.cells)
        if (isNewest(way, cell)) newest_.erase({way.row, cell.field});
    for (auto* saves : {&inserting_, &newestOf_})
        if (const auto at = saves->find(way.row); at != saves->end() && at->second == way.id) saves->erase(at);
}

std::vector<RecordJournal::Answered> RecordJournal::take(std::uint64_t serial, const Answers& answers,
                                                         const Table& table) {
    std::vector<Answered> taken;
    const auto at = onTheirWay_.find(serial);
    if (at == onTheirWay_.end()) return taken;
    const std::vector<OnItsWay> ways = std::move(at->second);
    onTheirWay_.erase(at);
    auto next = std::make_shared<Edits>(*edits_);  // one for all: each record by itself would copy its neighbours anew
    for (std::size_t i = 0; i < ways.size(); ++i) {
        const OnItsWay& way = ways[i];
        if (way.row == kNoRow) {  // gone by a reload
            const auto* gone = answers ? std::get_if<StoredRecord>(&(*answers)[i]) : nullptr;
            if (way.lost && gone && way.change == RecordChange::Delete)
                taken.push_back({*way.lost, way.change, true, {}, {}, {}, gone->takenAlong});
            continue;
        }
        Answered answer{way.row, way.change, false, {}, {}, {}, nullptr};
        const Outcome outcome =
            answers ? (*answers)[i] : Outcome(Problem{answers.error().code, {}, answers.error().message});
        // What was typed into since waits for its own answer.
        for (const OnItsWay::Cell& cell : way.cells) {
            const CellEdit* edit = next->find(way.row, cell.field);
            if (isNewest(way, cell) && edit && edit->state == EditState::Saving) answer.fields.push_back(cell.field);
        }
        if (const auto* stored = std::get_if<StoredRecord>(&outcome))
            takeStored(way, *stored, table, *next, answer);
        else
            takeRefusal(way, outcome, table, *next, answer);
        forget(way);
        taken.push_back(std::move(answer));
    }
    edits_ = std::move(next);
    return taken;
}

void RecordJournal::takeStored(const OnItsWay& way, const StoredRecord& stored, const Table& table, Edits& next,
                               Answered& answer) {
    answer.isStored = true;
    const RecordEdit* known = next.record(way.row);
    RecordEdit edit = known ? *known : RecordEdit();
    if (way.change == RecordChange::Delete) {
        if (loading_) noteDeleted(table, way.row);
        answer.takenAlong = stored.takenAlong;
        RecordEdit gone;
        // A load under way may have read one that was inserted here under this key.
        const RecordFate* fate = edit.fate();
        gone.setFate(RecordFate{RecordChange::Delete, EditState::Saved, {}, fate ? fate->key : RecordKey{}, 0});
        next.setRecord(way.row, std::move(gone));
        return;
    }
    for (std::size_t i = 0; i < way.cells.size(); ++i) {
        const FieldIndex field = way.cells[i].field;
        const CellEdit* now = edit.find(field);
        if (!now) continue;
        if (way.change == RecordChange::Update) noteSaved(table, {way.row, field}, *now, stored.values[i]);
        CellEdit moved = *now;
        moved.original = stored.values[i];
        if (isNewest(way, way.cells[i])) moved.sent = nullptr;
        // Typed into since, and not handed over yet, it is still to be saved.
        if (isNewest(way, way.cells[i]) && now->state == EditState::Saving) {
            moved.value = moved.original;
            moved.state = EditState::Saved;
            moved.message.clear();
            moved.theirs = nullptr;
        }
        edit.set(field, std::move(moved));
    }
    if (way.change == RecordChange::Insert) {
        if (loading_) noteInserted(way.row, stored.key);
        if (const RecordFate* fate = edit.fate()) answer.takenAlong = fate->bringsBack;
        for (std::size_t i = 0; i < std::min(stored.readBack.size(), way.readBack.size()); ++i)
            if (way.readBack[i]) answer.given.emplace(*way.readBack[i], stored.readBack[i]);
        for (const OnItsWay::Cell& cell : way.cells) answer.given.erase(cell.field);
        edit.setFate(RecordFate{RecordChange::Insert, EditState::Saved, {}, stored.key, keyMoves_.size()});
    }
    takeReadBack(way, stored.readBack, table, edit);
    next.setRecord(way.row, std::move(edit));
}

/// What stands in fields that were not written: by triggers, defaults, generated columns, or by somebody else.
void RecordJournal::takeReadBack(const OnItsWay& way, const std::vector<Value>& readBack, const Table& table,
                                 RecordEdit& edit) {
    for (std::size_t i = 0; i < std::min(readBack.size(), way.readBack.size()); ++i) {
        if (!way.readBack[i]) continue;
        const FieldIndex field = *way.readBack[i];
        const CellEdit* now = edit.find(field);
        if (now && isUnsaved(now->state)) {
            const bool wasSent = std::any_of(way.cells.begin(), way.cells.end(),
                                             [&](const OnItsWay::Cell& cell) { return cell.field == field; });
            if (way.change == RecordChange::Insert && !wasSent) {  // typed while the record was being made
                CellEdit typed = *now;
                typed.original = readBack[i];
                edit.set(field, std::move(typed));
            }
            continue;
        }
        const Column* column = table.column(field);
        const Value shown = now ? now->value : column ? column->value(way.row) : Value(Empty{});
        if (shown == readBack[i]) continue;
        if (!now && column && column->misfit(way.row)) continue;  // shown as stored
        // The load under way may have read what stood there before.
        // One that was made here it has not, or whole; keys are followed by their own moves.
        const bool isKey = std::find(table.keyFields.begin(), table.keyFields.end(), field) != table.keyFields.end();
        if (loading_ && way.change == RecordChange::Update && !isKey)
            savedMeanwhile_.cells[{way.row, field}].push_back(shown);
        edit.set(field, {readBack[i], readBack[i], EditState::Saved, {}, {}});
    }
}

std::string RecordJournal::conflictSaid(const Conflict& conflict, const Table& table,
                                        const std::vector<std::pair<FieldIndex, Value>>& now) const {
    std::string changedBy;
    for (const auto& [field, value] : now)
        if (const auto* name = std::get_if<std::string>(&value);
            name && !changedByField_.empty() && table.schema.field(field).name == changedByField_)
            changedBy = *name;
    if (!conflict.isGone() && conflict.fields.size() == 1 &&
        table.schema.field(conflict.fields.front().field).name == versionField_)
        return fmt::format("Somebody has changed this record meanwhile{}",
                           changedBy.empty() ? "." : fmt::format("; {} saved it last.", changedBy));
    return conflictWords_ ? conflictWords_(conflict, changedBy) : words(conflict, table.schema);
}

void RecordJournal::takeRefusal(const OnItsWay& way, const Outcome& outcome, const Table& table, Edits& next,
                                Answered& answer) {
    const RecordEdit* known = next.record(way.row);
    if (!known) return;
    RecordEdit edit = *known;
    const auto* conflict = std::get_if<Conflict>(&outcome);
    const auto* problem = std::get_if<Problem>(&outcome);
    const bool isAnothers = problem && problem->code == ErrorCode::Cancelled;
    if (!isAnothers && problem) answer.message = problem->message;
    if (conflict) {
        std::vector<std::pair<FieldIndex, Value>> now;
        for (std::size_t i = 0; i < std::min(way.readBack.size(), conflict->readBack.size()); ++i)
            if (way.readBack[i]) now.emplace_back(*way.readBack[i], conflict->readBack[i]);
        answer.message = conflictSaid(*conflict, table, now);
    }
    const auto isNamed = [&](FieldIndex field) {
        if (conflict)
            return conflict->isGone() || std::any_of(conflict->fields.begin(), conflict->fields.end(),
                                                     [&](const auto& f) { return f.field == field; });
        return problem->fields.empty() ||
               std::find(problem->fields.begin(), problem->fields.end(), field) != problem->fields.end();
    };
    const bool namesOne = !isAnothers && std::any_of(way.cells.begin(), way.cells.end(),
                                                     [&](const OnItsWay::Cell& cell) { return isNamed(cell.field); });
    for (const OnItsWay::Cell& cell : way.cells) {
        const CellEdit* now = edit.find(cell.field);
        if (!now || !isNewest(way, cell)) continue;
        CellEdit moved = *now;
        moved.sent = nullptr;
        if (now->state != EditState::Saving) {  // typed into since, and not handed over yet
            edit.set(cell.field, std::move(moved));
            continue;
        }
        const bool isAtFault = !isAnothers && (isNamed(cell.field) || !namesOne);
        moved.state = !isAtFault ? EditState::Draft : conflict ? EditState::Conflict : EditState::Refused;
        moved.message = isAtFault ? answer.message : std::string();
        if (conflict) moved.theirs = theirsOf(way.readBack, *conflict, cell.field, moved);
        if (moved.state != EditState::Conflict) moved.theirs = nullptr;
        const bool isKey =
            std::find(table.keyFields.begin(), table.keyFields.end(), cell.field) != table.keyFields.end();
        if (loading_ && moved.theirs && way.change == RecordChange::Update && !isKey)
            savedMeanwhile_.cells[{way.row, cell.field}].push_back(moved.original);
        edit.set(cell.field, std::move(moved));
    }
    if (conflict) takeReadBack(way, conflict->readBack, table, edit);
    if (edit.fate() && edit.fate()->state == EditState::Saving) {
        RecordFate fate = *edit.fate();
        fate.state = isAnothers ? EditState::Draft : conflict ? EditState::Conflict : EditState::Refused;
        fate.message = answer.message;
        edit.setFate(std::move(fate));
    }
    next.setRecord(way.row, std::move(edit));
}

/// A load under way may have read the cell before; a key that was saved names its record from now on.
void RecordJournal::noteSaved(const Table& table, Edits::Place place, const CellEdit& before, const Value& stored) {
    if (loading_) savedMeanwhile_.cells[place].push_back(before.original);
    const auto& keys = table.keyFields;
    const auto part = std::find(keys.begin(), keys.end(), place.second);
    if (table.rowIds || part == keys.end()) return;
    const RecordKey old = keyOf(table, place.first);
    RecordKey moved = old;
    moved[static_cast<std::size_t>(part - keys.begin())] = stored;
    keyMoves_.emplace_back(old, moved);
}

void RecordJournal::noteDeleted(const Table& table, SourceRow row) {
    savedMeanwhile_.deleted.insert(row);
    std::map<FieldIndex, std::vector<Value>> held;
    for (std::size_t i = 0; i < table.schema.storedFields(); ++i) {
        const auto field = static_cast<FieldIndex>(i);
        const CellEdit* edit = edits_->find(row, field);
        const Column* column = table.column(field);
        if (edit || column)
            held[field].push_back(!edit                             ? column->value(row)
                                  : edit->state == EditState::Saved ? edit->value
                                                                    : edit->original);
        if (const auto earlier = savedMeanwhile_.cells.find({row, field}); earlier != savedMeanwhile_.cells.end())
            held[field].insert(held[field].end(), earlier->second.begin(), earlier->second.end());
    }
    RecordKey key = storedKey(table, *edits_, row);
    const std::size_t hash = hashOf(key);
    savedMeanwhile_.held.emplace(hash, SavedMeanwhile::Held{std::move(key), std::move(held)});
}

/// One that was deleted may be here again, as by undo: what the load has read under its key may be that of the older
/// one.
void RecordJournal::noteInserted(SourceRow row, const RecordKey& key) {
    savedMeanwhile_.inserted.insert(row);
    const auto [first, last] = savedMeanwhile_.held.equal_range(hashOf(key));
    for (auto known = first; known != last; ++known)
        if (known->second.key == key)
            for (const auto& [field, values] : known->second.values) {
                auto& all = savedMeanwhile_.cells[{row, field}];
                all.insert(all.end(), values.begin(), values.end());
            }
}

void RecordJournal::loadBegun() {
    loading_ = true;
    savedMeanwhile_ = {};
}

KeysOnTheirWay RecordJournal::keysOnTheirWay(const Table& table) const {
    KeysOnTheirWay all;
    const auto isKey = [&table](FieldIndex field) {
        return std::find(table.keyFields.begin(), table.keyFields.end(), field) != table.keyFields.end();
    };
    for (const auto& [serial, ways] : onTheirWay_)
        for (const OnItsWay& way : ways)
            for (const OnItsWay::Cell& cell : way.cells)
                if (way.row != kNoRow && way.change == RecordChange::Update && isKey(cell.field))
                    all[{way.row, cell.field}].push_back(cell.value);
    // What a key was in between, too: the load may have read it then.
    for (const auto& [place, values] : savedMeanwhile_.cells)
        if (isKey(place.second)) all[place].insert(all[place].end(), values.begin(), values.end());
    return all;
}

RecordJournal::ChangedOver RecordJournal::changeOver(const Table& from, const Table& to,
                                                     const std::shared_ptr<const std::vector<std::uint32_t>>& byKey,
                                                     const KeyIndex& keys) {
    ChangedOver out;
    out.moves = movesOf(byKey, from, *edits_, keysOnTheirWay(from), savedMeanwhile_, keys);
    CarriedEdits over = carried(*edits_, from, to, out.moves, savedMeanwhile_);
    out.lost = wordsOf(over.lost, *edits_, from.schema);
    std::map<Edits::Place, std::uint64_t> newest;
    for (const auto& [place, serial] : newest_)
        if (const auto at = over.places.find(place); at != over.places.end()) newest.emplace(at->second, serial);
    newest_ = std::move(newest);
    std::map<SourceRow, std::uint64_t> inserting;
    for (const auto& [row, serial] : inserting_)
        if (const auto now = out.moves.now(row)) inserting.emplace(*now, serial);
    inserting_ = std::move(inserting);
    std::map<SourceRow, std::uint64_t> newestOf;
    for (const auto& [row, id] : newestOf_)
        if (const auto now = out.moves.now(row)) newestOf.emplace(*now, id);
    newestOf_ = std::move(newestOf);
    for (auto& [serial, ways] : onTheirWay_)
        for (OnItsWay& way : ways) {
            for (OnItsWay::Cell& cell : way.cells)
                if (const auto field = to.schema.find(from.schema.field(cell.field).name)) cell.field = *field;
            for (auto& field : way.readBack)
                if (field) field = to.schema.find(from.schema.field(*field).name);
            if (way.row == kNoRow) continue;
            const auto now = out.moves.now(way.row);
            if (!now) way.lost = way.row;
            way.row = now.value_or(kNoRow);
        }
    savedMeanwhile_ = {};
    edits_ = std::move(over.edits);
    return out;
}

void RecordJournal::nameLost(const std::map<SourceRow, SourceRow>& names) {
    for (auto& [serial, ways] : onTheirWay_)
        for (OnItsWay& way : ways) {
            if (!way.lost || EditHistory::isLost(*way.lost)) continue;
            const auto name = names.find(*way.lost);
            way.lost = name == names.end() ? std::nullopt : std::optional(name->second);
        }
}

bool RecordJournal::isOnItsWay(SourceRow lost) const {
    return std::any_of(onTheirWay_.begin(), onTheirWay_.end(), [lost](const auto& save) {
        return std::any_of(save.second.begin(), save.second.end(),
                           [lost](const OnItsWay& way) { return way.row == kNoRow && way.lost == lost; });
    });
}

RecordKey RecordJournal::keyNow(RecordKey key, std::size_t since) const {
    for (std::size_t i = since; i < keyMoves_.size(); ++i)
        if (keyMoves_[i].first == key) key = keyMoves_[i].second;
    return key;
}

std::optional<SourceRow> RecordJournal::editedTo(const Table& table, const RecordKey& key) const {
    std::optional<SourceRow> found;
    if (edits_->hasFates())
        edits_->forEachRecord([&](SourceRow row, const RecordEdit& record) {
            const RecordFate* fate = record.fate();
            const bool isHere =
                fate && (fate->change == RecordChange::Insert ? isStored(row)
                                                              : !fate->key.empty() && fate->state != EditState::Saved);
            if (isHere && keyOf(table, row) == key) found = row;
        });
    if (table.rowIds || found) return found;
    for (const FieldIndex field : table.keyFields)
        if (edits_->touches(field))
            edits_->forEach([&](Edits::Place place, const CellEdit&) {
                if (!found && place.second == field && keyOf(table, place.first) == key) found = place.first;
            });
    return found;
}

}  // namespace jollyrow
