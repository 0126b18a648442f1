// SPDX-License-Identifier: MIT
// Covered by tests/session/session_test.cpp and session_model_test.cpp.
#include "core/editing/save_queue.h"

#include <algorithm>
#include <limits>

namespace jollyrow {

namespace {

/// The version that the next change of the record gives it: one more; others the database makes.
Value versionAfter(const Value& before) {
    if (const auto* number = std::get_if<std::int64_t>(&before))
        return *number == std::numeric_limits<std::int64_t>::max() ? Value(std::int64_t{0}) : Value(*number + 1);
    return before;
}

}  // namespace

void SaveQueue::buildOn(RecordSave& record) const {
    if (record.request.version) {
        const auto left = versions_.find(record.versionAfter);
        if (left != versions_.end()) record.request.version->before = left->second;
        const auto inserted = made_.find(record.insertedBy);
        if (left == versions_.end() && inserted != made_.end())
            if (const auto given = inserted->second.others.find(record.request.version->field);
                given != inserted->second.others.end())
                record.request.version->before = given->second;
        record.request.version->after = versionAfter(record.request.version->before);
    }
    for (std::size_t i = 0; i < record.cells.size(); ++i)
        if (const auto earlier = left_.find(record.cells[i].after); earlier != left_.end())
            record.request.changes[i].before = earlier->second;
    for (const auto& [part, cell] : record.keyAfter)
        if (const auto earlier = left_.find(cell); earlier != left_.end()) record.request.key[part] = earlier->second;
    const auto made = made_.find(record.insertedBy);
    if (made == made_.end()) return;
    record.request.key = made->second.key;
    // What was typed while the record was being inserted stands on what the store gave the field then.
    for (std::size_t i = 0; i < record.cells.size(); ++i)
        if (const auto given = made->second.others.find(record.request.changes[i].field);
            record.cells[i].after == 0 && given != made->second.others.end())
            record.request.changes[i].before = given->second;
}

/// One that failed left what an earlier one had. `outcome` null: the store took nothing.
void SaveQueue::note(const RecordSave& record, const Outcome* outcome) {
    const auto* stored = outcome ? std::get_if<StoredRecord>(outcome) : nullptr;
    for (std::size_t i = 0; i < record.cells.size(); ++i)
        left_.emplace(record.cells[i].id,
                      stored && i < stored->values.size() ? stored->values[i] : record.request.changes[i].before);
    if (record.request.version) {
        const auto& read = record.request.readBack;
        const auto at =
            static_cast<std::size_t>(std::find(read.begin(), read.end(), record.request.version->field) - read.begin());
        const bool isRead = stored && at < stored->readBack.size();
        versions_[record.id] = isRead ? stored->readBack[at] : record.request.version->before;
    }
    if (!stored || record.request.change != RecordChange::Insert) return;
    Made& made = made_[record.id];
    made.key = stored->key;
    for (std::size_t i = 0; i < std::min(stored->readBack.size(), record.request.readBack.size()); ++i)
        made.others[record.request.readBack[i]] = stored->readBack[i];
}

Result<void> SaveQueue::makeReady() {
    if (store_) return {};
    auto opened = open_();
    if (!opened) return opened.error();
    store_ = std::move(*opened);
    return {};
}

Result<SeenElsewhere> SaveQueue::look(const TableSchema& schema, const std::vector<FieldIndex>& keyFields) {
    if (auto ready = makeReady(); !ready) return ready.error();
    return store_->seenElsewhere(schema, keyFields);
}

Result<std::vector<Outcome>> SaveQueue::write(Save save) {
    if (auto ready = makeReady(); !ready) {
        if (save.joint) save.joint->giveUp(ready.error());
        return ready.error();
    }
    left_.erase(left_.begin(), left_.lower_bound(save.oldest));
    made_.erase(made_.begin(), made_.lower_bound(save.oldest));
    versions_.erase(versions_.begin(), versions_.lower_bound(save.oldest));
    std::vector<RecordWrite> writes;
    std::vector<std::size_t> at;  // of a write, in the save
    std::vector<Outcome> outcomes(save.records.size());
    for (std::size_t i = 0; i < save.records.size(); ++i) {
        RecordSave& record = save.records[i];
        buildOn(record);
        if (record.insertedBy != 0 && !made_.contains(record.insertedBy)) {
            outcomes[i] = Problem{ErrorCode::Refused, {}, "The record itself could not be added."};
            continue;
        }
        writes.push_back(record.request);
        at.push_back(i);
    }
    const Store::Prepared prepared = [&](std::size_t record, const RecordKey& key) {
        if (save.notes.prepared) save.notes.prepared(at[record], key);
    };
    store_->setPrepared(prepared);
    if (save.notes.before) save.notes.before();
    auto answers =
        save.joint ? save.joint->write(writes, *store_, prepared) : store_->write(writes, save.atomicity, Cancel());
    store_->setPrepared({});
    for (std::size_t i = 0; i < at.size(); ++i) {
        note(save.records[at[i]], answers ? &(*answers)[i] : nullptr);
        if (answers) outcomes[at[i]] = std::move((*answers)[i]);
    }
    if (!answers) return answers.error();
    return outcomes;
}

}  // namespace jollyrow
