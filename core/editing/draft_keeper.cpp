// SPDX-License-Identifier: MIT
// Covered by tests/session/drafts_test.cpp and drafts_kill_test.cpp.
#include "core/editing/draft_keeper.h"

#include <algorithm>
#include <chrono>
#include <future>

namespace jollyrow {
namespace {

std::int64_t secondsNow() {
    return std::chrono::duration_cast<std::chrono::seconds>(std::chrono::system_clock::now().time_since_epoch())
        .count();
}

}  // namespace

void DraftKeeper::begin(const std::string& folder, const std::string& source, const std::string& table) {
    ++session_;
    last_ = std::make_shared<Edits>();
    live_.clear();
    settled_.clear();
    left_.clear();
    unreadable_ = 0;
    hasFailed_ = false;
    isReady_ = true;
    const auto before = std::exchange(file_, nullptr);
    if (folder.empty() || source.empty() || table.empty()) {
        if (before) worker_.run([before] { before->close(); });
        return;
    }
    file_ = std::make_shared<DraftFile>();
    isReady_ = false;
    worker_.run([this, before, file = file_, folder, source, table, session = session_] {
        if (before) before->close();
        auto left = std::make_shared<KeptDrafts>();
        auto opened = DraftFile::open(folder, source, table, *left);
        std::optional<Error> error;
        if (opened)
            *file = std::move(*opened);
        else
            error = opened.error();
        post_([this, left, error, session] {
            if (session != session_) return;
            isReady_ = true;
            if (error && hooks_.onFailure) hooks_.onFailure(*error);
            left_ = std::move(left->records);
            unreadable_ = left->unreadable;
            if ((!left_.empty() || unreadable_ != 0) && hooks_.onLeft) hooks_.onLeft();
        });
    });
}

void DraftKeeper::finish() {
    if (file_) worker_.run([file = file_] { file->close(); });
    worker_.finish();
}

std::optional<KeptRecord> DraftKeeper::keptOf(const Table& table, const Edits& edits, SourceRow row) const {
    const RecordEdit* edited = edits.record(row);
    if (!edited) return std::nullopt;
    KeptRecord record;
    const RecordFate* fate = edited->fate();
    if (fate && isUnsaved(fate->state)) record.change = fate->change;
    const std::size_t stored = table.schema.storedFields();
    for (const auto& [field, cell] : edited->cells())
        if (isUnsaved(cell.state) && raw(field) < stored)
            record.cells.push_back({table.schema.field(field).name, cell.value, cell.original, cell.label,
                                    cell.sent ? *cell.sent : std::vector<Value>{}});
    if (record.isSettled()) return std::nullopt;
    if (record.change != RecordChange::Insert && table.hasKeys()) record.key = storedKey(table, edits, row);
    return record;
}

std::uint64_t DraftKeeper::sync(const Table& table, const std::shared_ptr<const Edits>& edits) {
    if (!file_) return number_;
    std::vector<KeptRecord> records = std::exchange(settled_, {});
    Edits::forEachDifference(*last_, *edits, [&](std::uint32_t at, const RecordEdit*, const RecordEdit*) {
        const auto row = static_cast<SourceRow>(at);
        const auto known = live_.find(row);
        auto record = keptOf(table, *edits, row);
        if (!record) {
            if (known == live_.end()) return;
            records.push_back({known->second.id, RecordChange::Update, {}, {}, secondsNow()});
            live_.erase(known);
            return;
        }
        record->id = known == live_.end() ? std::to_string(nextId_++) : known->second.id;
        record->when = known == live_.end() ? secondsNow() : known->second.when;
        if (known != live_.end() && known->second == *record) return;
        live_.insert_or_assign(row, *record);
        records.push_back(std::move(*record));
    });
    last_ = edits;
    if (hasFailed_ && !records.empty()) {  // what could not be kept is tried again with what comes
        for (const auto& [row, record] : live_) records.push_back(record);
        hasFailed_ = false;
    }
    if (!records.empty()) write(std::move(records));
    return number_;
}

void DraftKeeper::write(std::vector<KeptRecord> records) {
    worker_.run([this, file = file_, records = std::move(records), number = ++number_, session = session_] {
        if (!file->isOpen()) return;
        auto kept = file->keep(records);
        post_([this, kept = std::move(kept), number, session] {
            if (session != session_) return;
            if (!kept) {
                hasFailed_ = true;
                if (hooks_.onFailure) hooks_.onFailure(kept.error());
                return;
            }
            kept_ = std::max(kept_, number);
            if (hooks_.onKept) hooks_.onKept(kept_);
        });
    });
}

namespace {
/// Runs on the worker behind what waits there, and waits for it.
template <class Job>
void runAndWait(Worker& worker, const Job& job) {
    std::promise<void> done;
    worker.run([&] {
        job();
        done.set_value();
    });
    done.get_future().wait();
}
}  // namespace

SaveNotes DraftKeeper::preparing(std::span<const SourceRow> rows) {
    if (!file_) return {};
    std::vector<std::string> ids;
    for (const SourceRow row : rows) {
        const auto known = live_.find(row);
        ids.push_back(known == live_.end() ? std::string() : known->second.id);
    }
    SaveNotes notes;
    notes.before = [this] { runAndWait(worker_, [] {}); };
    notes.prepared = [this, ids = std::move(ids), file = file_](std::size_t at, const RecordKey& key) {
        if (ids[at].empty()) return;
        runAndWait(worker_, [&] {
            // What cannot be noted is saved all the same: only a crash in this very moment could double it.
            if (file->isOpen()) static_cast<void>(file->noteMade(ids[at], key).ok());
        });
    };
    return notes;
}

/// Edits that are gone with their records are settled: they have been said.
void DraftKeeper::moveRows(const RowMoves& moves) {
    std::map<SourceRow, KeptRecord> moved;
    for (auto& [row, record] : live_) {
        if (const auto now = moves.now(row))
            moved.emplace(*now, std::move(record));
        else
            settled_.push_back({record.id, RecordChange::Update, {}, {}, secondsNow()});
    }
    live_ = std::move(moved);
    // All rows are others: everything is compared, and what has stayed as it was is not written again.
    auto all = std::make_shared<Edits>();
    for (const auto& [row, record] : live_) {
        RecordEdit any;
        any.setFate(RecordFate{});
        all->setRecord(row, std::move(any));
    }
    last_ = std::move(all);
}

void DraftKeeper::letGo(const std::vector<std::string>& ids) {
    for (const std::string& id : ids) settled_.push_back({id, RecordChange::Update, {}, {}, secondsNow()});
    std::erase_if(left_,
                  [&](const KeptRecord& record) { return std::find(ids.begin(), ids.end(), record.id) != ids.end(); });
}

}  // namespace jollyrow
