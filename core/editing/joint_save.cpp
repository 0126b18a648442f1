// SPDX-License-Identifier: MIT
// Covered by tests/session/joint_save_test.cpp.
#include "core/editing/joint_save.h"

#include <iterator>

namespace jollyrow {

void JointSave::join() {
    const std::lock_guard lock(mutex_);
    ++joined_;
}

void JointSave::begin() {
    const std::lock_guard lock(mutex_);
    begun_ = true;
    changed_.notify_all();
}

void JointSave::giveUp(const Error& why) {
    const std::lock_guard lock(mutex_);
    if (done_) return;
    error_ = why;
    done_ = true;
    changed_.notify_all();
}

/// All parts are there and wait: nobody changes them.
void JointSave::writeAll(Store& store) {
    std::vector<RecordWrite> all;
    for (const Part* part : parts_) all.insert(all.end(), part->records.begin(), part->records.end());
    store.setPrepared([this](std::size_t record, const RecordKey& key) {
        for (const Part* part : parts_) {
            if (record < part->records.size()) return part->prepared ? part->prepared(record, key) : void();
            record -= part->records.size();
        }
    });
    auto outcomes = store.write(all, Atomicity::AllOrNothing, Cancel());
    store.setPrepared({});
    if (!outcomes) {
        error_ = outcomes.error();
        return;
    }
    auto next = outcomes->begin();
    for (Part* part : parts_) {
        const auto end = std::next(next, static_cast<std::ptrdiff_t>(part->records.size()));
        part->outcomes.assign(std::make_move_iterator(next), std::make_move_iterator(end));
        next = end;
    }
}

Result<std::vector<Outcome>> JointSave::write(std::span<const RecordWrite> records, Store& store,
                                              const Store::Prepared& prepared) {
    Part part{records, prepared, {}};
    std::unique_lock lock(mutex_);
    parts_.push_back(&part);
    changed_.notify_all();
    changed_.wait(lock, [&] { return done_ || (begun_ && parts_.size() == joined_); });
    if (!done_ && !writing_) {
        writing_ = true;  // the first of those that woke writes for all
        writeAll(store);
        done_ = true;
        changed_.notify_all();
    }
    changed_.wait(lock, [&] { return done_; });
    if (error_) return *error_;
    return std::move(part.outcomes);
}

}  // namespace jollyrow
