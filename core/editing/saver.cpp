// SPDX-License-Identifier: MIT
// Covered by tests/session/saver_test.cpp.
#include "core/editing/saver.h"

#include <algorithm>
#include <exception>

namespace jollyrow {

class SaveAnswer::Waiting {
  public:
    void decide(Decision decision) {
        const std::lock_guard lock(mutex_);
        if (decision_) return;
        decision_ = std::move(decision);
        decided_.notify_all();
    }
    Decision wait() {
        std::unique_lock lock(mutex_);
        decided_.wait(lock, [this] { return decision_.has_value(); });
        return *decision_;
    }

  private:
    std::mutex mutex_;
    std::condition_variable decided_;
    std::optional<Decision> decision_;
};

struct SaveAnswer::Handle {
    explicit Handle(std::shared_ptr<Waiting> one) : waiting(std::move(one)) {}
    Handle(const Handle&) = delete;
    Handle& operator=(const Handle&) = delete;
    std::shared_ptr<Waiting> waiting;
    ~Handle() { waiting->decide(Refused{"The application has not said whether this may be saved.", {}, 0}); }
};

SaveAnswer::SaveAnswer(std::shared_ptr<Waiting> waiting) : handle_(std::make_shared<Handle>(std::move(waiting))) {}
void SaveAnswer::store() const { handle_->waiting->decide(Store{}); }
void SaveAnswer::stored(std::vector<StoredRecord> records) const {
    handle_->waiting->decide(Stored{std::move(records)});
}
void SaveAnswer::refuse(std::string message, std::vector<FieldIndex> fields, std::size_t record) const {
    handle_->waiting->decide(Refused{std::move(message), std::move(fields), record});
}

void SaverDesk::set(Saver saver) {
    const std::lock_guard lock(mutex_);
    saver_ = saver ? std::make_shared<const Saver>(std::move(saver)) : nullptr;
}

bool SaverDesk::isSet() {
    const std::lock_guard lock(mutex_);
    return saver_ != nullptr;
}

void SaverDesk::close() {
    std::vector<std::weak_ptr<SaveAnswer::Waiting>> waiting;
    {
        const std::lock_guard lock(mutex_);
        closed_ = true;
        waiting.swap(waiting_);
    }
    for (const auto& one : waiting)
        if (const auto left = one.lock()) left->decide(SaveAnswer::Closed{});
}

std::optional<SaveAnswer::Decision> SaverDesk::ask(std::span<const RecordWrite> records) {
    auto waiting = std::make_shared<SaveAnswer::Waiting>();
    std::shared_ptr<const Saver> saver;
    {
        const std::lock_guard lock(mutex_);
        if (!saver_) return std::nullopt;
        if (closed_) return SaveAnswer::Decision(SaveAnswer::Closed{});
        saver = saver_;
        std::erase_if(waiting_, [](const auto& one) { return one.expired(); });
        waiting_.push_back(waiting);
    }
    post_([saver, waiting, copies = std::vector<RecordWrite>(records.begin(), records.end())]() mutable {
        SaveAnswer answer(waiting);
        try {
            (*saver)(std::move(copies), answer);
        } catch (const std::exception& error) {
            answer.refuse(std::string("Saving failed in the application: ") + error.what());
        } catch (...) {
            answer.refuse("Saving failed in the application.");
        }
    });
    return waiting->wait();
}

namespace {

/// The key that a new record was handed over with; empty when a part of it is missing.
RecordKey keyAmong(const RecordWrite& record) {
    if (record.change != RecordChange::Insert) {
        RecordKey key = record.key;
        for (const FieldChange& change : record.changes)
            for (std::size_t k = 0; k < record.keyFields.size() && k < key.size(); ++k)
                if (record.change == RecordChange::Update && record.keyFields[k] == change.field) key[k] = change.after;
        return key;
    }
    RecordKey key;
    for (const FieldIndex part : record.keyFields) {
        const auto given = std::find_if(record.changes.begin(), record.changes.end(),
                                        [&](const FieldChange& change) { return change.field == part; });
        if (given == record.changes.end() || isEmpty(given->after)) return {};
        key.push_back(given->after);
    }
    return key;
}

/// A new record that the application has saved: its key, what it was handed over with, and empties.
std::vector<Value> readBackOf(const RecordWrite& record, const RecordKey& key) {
    std::vector<Value> all;
    for (const FieldIndex field : record.readBack) {
        Value value;
        for (const FieldChange& change : record.changes)
            if (change.field == field) value = change.after;
        for (std::size_t k = 0; k < std::min(record.keyFields.size(), key.size()) && !record.keyIsRowId; ++k)
            if (record.keyFields[k] == field) value = key[k];
        all.push_back(std::move(value));
    }
    return all;
}

std::vector<Outcome> storedBy(const SaveAnswer::Stored& answer, std::span<const RecordWrite> records) {
    std::vector<Outcome> outcomes;
    for (std::size_t i = 0; i < records.size(); ++i) {
        StoredRecord stored;
        if (i < answer.records.size()) stored = answer.records[i];
        if (stored.key.empty()) stored.key = keyAmong(records[i]);
        if (stored.values.size() != records[i].changes.size()) {
            stored.values.clear();
            for (const FieldChange& change : records[i].changes) stored.values.push_back(change.after);
        }
        if (stored.readBack.size() != records[i].readBack.size()) stored.readBack.clear();
        if (stored.readBack.empty() && records[i].change == RecordChange::Insert)
            stored.readBack = readBackOf(records[i], stored.key);
        if (stored.key.empty())
            outcomes.emplace_back(Problem{ErrorCode::Unsupported,
                                          {},
                                          "The application has saved a new record without saying what its key is. "
                                          "Read the records again before it is saved once more."});
        else
            outcomes.emplace_back(std::move(stored));
    }
    return outcomes;
}

std::vector<Outcome> refusedBy(const SaveAnswer::Refused& answer, std::size_t records) {
    std::vector<Outcome> outcomes(records,
                                  Problem{ErrorCode::Cancelled, {}, "Not saved, because another record could not be."});
    if (records != 0)
        outcomes[std::min(answer.record, records - 1)] = Problem{ErrorCode::Refused, answer.fields, answer.message};
    return outcomes;
}

class SaverStore final : public Store {
  public:
    SaverStore(std::shared_ptr<SaverDesk> desk, StoreOpener open) : desk_(std::move(desk)), open_(std::move(open)) {}

    Result<std::vector<Outcome>> write(std::span<const RecordWrite> records, Atomicity atomicity,
                                       const Cancel& cancel) override {
        const auto decision = desk_->ask(records);
        if (decision && std::holds_alternative<SaveAnswer::Closed>(*decision))
            return Error{ErrorCode::Cancelled, "Not saved: the form was closed before the application had answered."};
        if (decision)
            if (const auto* refused = std::get_if<SaveAnswer::Refused>(&*decision))
                return refusedBy(*refused, records.size());
        if (decision)
            if (const auto* stored = std::get_if<SaveAnswer::Stored>(&*decision)) return storedBy(*stored, records);
        if (auto ready = makeReady(); !ready) return ready.error();
        inner_->setPrepared(prepared_);
        return inner_->write(records, atomicity, cancel);
    }
    void setPrepared(const Prepared& prepared) override {
        prepared_ = prepared;
        if (inner_) inner_->setPrepared(prepared);
    }

    Result<SeenElsewhere> seenElsewhere(const TableSchema& schema, const std::vector<FieldIndex>& keyFields) override {
        if (auto ready = makeReady(); !ready) return ready.error();
        return inner_->seenElsewhere(schema, keyFields);
    }

  private:
    Result<void> makeReady() {
        if (inner_) return {};
        auto opened = open_();
        if (!opened) return opened.error();
        inner_ = std::move(*opened);
        return {};
    }

    std::shared_ptr<SaverDesk> desk_;
    StoreOpener open_;
    std::unique_ptr<Store> inner_;
    Prepared prepared_;
};

}  // namespace

StoreOpener SaverDesk::before(std::shared_ptr<SaverDesk> desk, StoreOpener open) {
    return [desk = std::move(desk), open = std::move(open)]() -> Result<std::unique_ptr<Store>> {
        return std::unique_ptr<Store>(std::make_unique<SaverStore>(desk, open));
    };
}

}  // namespace jollyrow
