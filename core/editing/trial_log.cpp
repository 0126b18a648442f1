// SPDX-License-Identifier: MIT
// Covered by tests/session/trial_log_test.cpp.
#include "core/editing/trial_log.h"

#include <fmt/format.h>

#include <algorithm>

#include "core/formats/text_format.h"

namespace jollyrow {
namespace {

std::string wordsOf(const RecordKey& key) {
    std::string words;
    for (const Value& part : key) {
        if (!words.empty()) words += ", ";
        appendPlain(words, part);
    }
    return words;
}

/// Keys of two tables may be the same.
std::string nameOf(const RecordWrite& write, const RecordKey& key) { return write.schema->name + '\n' + wordsOf(key); }

}  // namespace

/// The record that a write is about: one that is there, or one that went and comes back under its key.
TrialLog::Record& TrialLog::recordOf(const RecordWrite& write, const StoredRecord& stored) {
    const bool isNew = write.change == RecordChange::Insert;
    const RecordKey& key = isNew ? stored.key : write.key;
    for (Record& record : records_)
        if (record.isThere != isNew && record.key == key && record.table == write.schema->name) return record;
    records_.push_back({write.schema->name, key, !isNew, true, {}, {}});
    return records_.back();
}

void TrialLog::noteRecord(const RecordWrite& write, const StoredRecord& stored) {
    Record& record = recordOf(write, stored);
    record.isThere = write.change != RecordChange::Delete;
    if (record.isThere) record.key = stored.key;
    for (std::size_t i = 0; i < write.changes.size(); ++i) {
        const FieldChange& change = write.changes[i];
        if (write.change != RecordChange::Insert) record.before.try_emplace(change.field, change.before);
        if (record.isThere) record.after[change.field] = i < stored.values.size() ? stored.values[i] : change.after;
    }
}

void TrialLog::noteStep(const RecordWrite& write, const StoredRecord& stored) {
    RecordWrite step = write;
    step.readBack.clear();
    if (write.change == RecordChange::Delete) deletedBy_[nameOf(write, write.key)] = {steps_.size(), stored.takenAlong};
    if (write.change != RecordChange::Insert) {
        const auto made = madeBy_.find(nameOf(write, write.key));
        if (made != madeBy_.end()) step.madeBy = made->second;
        // A key that was typed is the same there.
        if (made != madeBy_.end() && (write.change == RecordChange::Delete || stored.key != write.key))
            madeBy_.erase(made);
    } else {
        madeBy_[nameOf(write, stored.key)] = steps_.size();
        bringBackAsThere(step, nameOf(write, stored.key));
        if (keepsKey(write))
            for (std::size_t i = 0; i < std::min(write.keyFields.size(), stored.key.size()); ++i)
                if (std::none_of(step.changes.begin(), step.changes.end(),
                                 [&](const FieldChange& change) { return change.field == write.keyFields[i]; }))
                    step.changes.push_back({write.keyFields[i], Empty{}, stored.key[i]});
    }
    steps_.push_back(std::move(step));
}

/// A record that was brought back with what had gone along: there it is what goes along there, which somebody may have
/// changed since.
void TrialLog::bringBackAsThere(RecordWrite& step, const std::string& name) {
    const auto deleted = deletedBy_.find(name);
    if (deleted == deletedBy_.end()) return;
    if (deleted->second.takenAlong == step.bringsBack) step.bringsBackOf = deleted->second.step;
    step.bringsBack = nullptr;
    deletedBy_.erase(deleted);
}

void TrialLog::note(std::span<const RecordWrite> writes, std::span<const Outcome> outcomes) {
    const std::lock_guard lock(mutex_);
    for (std::size_t i = 0; i < std::min(writes.size(), outcomes.size()); ++i)
        if (const auto* stored = std::get_if<StoredRecord>(&outcomes[i])) {
            noteRecord(writes[i], *stored);
            noteStep(writes[i], *stored);
        }
}

void TrialLog::setTable(std::string table) {
    const std::lock_guard lock(mutex_);
    table_ = std::move(table);
}

/// Whether records of the trial may point to the one that is made.
bool TrialLog::keepsKey(const RecordWrite& write) const {
    if (table_.empty() || write.keyIsRowId) return false;
    if (write.schema->name != table_) return true;
    return std::any_of(write.schema->foreignKeys.begin(), write.schema->foreignKeys.end(),
                       [&](const ForeignKey& key) { return key.table == table_; });
}

void TrialLog::clear() {
    const std::lock_guard lock(mutex_);
    steps_.clear();
    madeBy_.clear();
    deletedBy_.clear();
    records_.clear();
}

std::size_t TrialLog::records() const {
    const std::lock_guard lock(mutex_);
    return static_cast<std::size_t>(std::count_if(records_.begin(), records_.end(), [](const Record& record) {
        if (record.wasThere != record.isThere) return true;
        return record.isThere && std::any_of(record.before.begin(), record.before.end(), [&](const auto& field) {
                   const auto now = record.after.find(field.first);
                   return (now == record.after.end() ? Value(Empty{}) : now->second) != field.second;
               });
    }));
}

Result<void> TrialLog::keep(Store& store) const {
    std::vector<RecordWrite> all;
    {
        const std::lock_guard lock(mutex_);
        all = steps_;
    }
    if (all.empty()) return {};
    auto outcomes = store.write(all, Atomicity::InOrder, Cancel());
    if (!outcomes) return outcomes.error();
    for (std::size_t i = 0; i < outcomes->size(); ++i) {
        const std::string which = all[i].key.empty() || all[i].madeBy
                                      ? std::string("A new record")
                                      : fmt::format("The record {}", wordsOf(all[i].key));
        if (const auto* conflict = std::get_if<Conflict>(&(*outcomes)[i]))
            return Error{ErrorCode::Conflict,
                         fmt::format("{}: {} Nothing was kept.", which, words(*conflict, all[i].schema))};
        if (const auto* problem = std::get_if<Problem>(&(*outcomes)[i]);
            problem && problem->code != ErrorCode::Cancelled)
            return Error{problem->code, fmt::format("{}: {} Nothing was kept.", which, problem->message)};
    }
    return {};
}

namespace {

class NotingStore final : public Store {
  public:
    NotingStore(std::shared_ptr<TrialLog> log, std::unique_ptr<Store> store)
        : log_(std::move(log)), store_(std::move(store)) {}
    Result<std::vector<Outcome>> write(std::span<const RecordWrite> records, Atomicity atomicity,
                                       const Cancel& cancel) override {
        auto outcomes = store_->write(records, atomicity, cancel);
        if (outcomes) log_->note(records, *outcomes);
        return outcomes;
    }
    void setPrepared(const Prepared& prepared) override { store_->setPrepared(prepared); }

  private:
    std::shared_ptr<TrialLog> log_;
    std::unique_ptr<Store> store_;
};

}  // namespace

StoreOpener TrialLog::noting(std::shared_ptr<TrialLog> log, StoreOpener open) {
    return [log = std::move(log), open = std::move(open)]() -> Result<std::unique_ptr<Store>> {
        auto opened = open();
        if (!opened) return opened;
        return std::unique_ptr<Store>(std::make_unique<NotingStore>(log, std::move(*opened)));
    };
}

}  // namespace jollyrow
