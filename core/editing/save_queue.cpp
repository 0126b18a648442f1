// SPDX-License-Identifier: MIT
// Covered by tests/session/session_test.cpp and session_model_test.cpp.
#include "core/editing/save_queue.h"

namespace jollyrow {

void SaveQueue::buildOn(RecordSave& record) const {
    for (std::size_t i = 0; i < record.cells.size(); ++i)
        if (const auto earlier = left_.find(record.cells[i].after); earlier != left_.end())
            record.request.changes[i].before = earlier->second;
    for (const auto& [part, cell] : record.keyAfter)
        if (const auto earlier = left_.find(cell); earlier != left_.end()) record.request.key[part] = earlier->second;
    if (const auto made = made_.find(record.insertedBy); made != made_.end()) record.request.key = made->second;
}

/// One that failed left what an earlier one had. `outcome` null: the store took nothing.
void SaveQueue::note(const RecordSave& record, const Outcome* outcome) {
    const auto* stored = outcome ? std::get_if<StoredRecord>(outcome) : nullptr;
    for (std::size_t i = 0; i < record.cells.size(); ++i)
        left_.emplace(record.cells[i].id,
                      stored && i < stored->values.size() ? stored->values[i] : record.request.changes[i].before);
    if (stored && record.request.change == RecordChange::Insert) made_.emplace(record.id, stored->key);
}

Result<std::vector<Outcome>> SaveQueue::write(Save save) {
    if (!store_) {
        auto opened = open_();
        if (!opened) return opened.error();
        store_ = std::move(*opened);
    }
    left_.erase(left_.begin(), left_.lower_bound(save.oldest));
    made_.erase(made_.begin(), made_.lower_bound(save.oldest));
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
    store_->setPrepared([&](std::size_t record, const RecordKey& key) {
        if (save.notes.prepared) save.notes.prepared(at[record], key);
    });
    if (save.notes.before) save.notes.before();
    auto answers = store_->write(writes, save.atomicity, Cancel());
    store_->setPrepared({});
    for (std::size_t i = 0; i < at.size(); ++i) {
        note(save.records[at[i]], answers ? &(*answers)[i] : nullptr);
        if (answers) outcomes[at[i]] = std::move((*answers)[i]);
    }
    if (!answers) return answers.error();
    return outcomes;
}

}  // namespace jollyrow
