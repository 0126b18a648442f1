// SPDX-License-Identifier: MIT
#pragma once
// TrialLog: what was saved in a trial on a copy of a database, step by step, so that the same can be done in the
// database itself: each step compared there with what it was begun with, all in one transaction. Thread-safe.

#include <cstddef>
#include <map>
#include <memory>
#include <mutex>
#include <span>
#include <string>
#include <vector>

#include "core/editing/save_queue.h"
#include "core/sources/source.h"

namespace jollyrow {

class TrialLog final {
  public:
    /// What was stored by one write. Records are known by the keys they had in the trial.
    void note(std::span<const RecordWrite> writes, std::span<const Outcome> outcomes);
    void clear();
    /// The table that the grid shows. A record that was added to another one meanwhile (by a look-up) keeps the key
    /// that it had in the trial, as others point to it by that: where the key is taken, nothing is kept.
    void setTable(std::string table);
    /// Records that came out otherwise than they were.
    std::size_t records() const;
    /// Does the same there, all or nothing; new records get the keys that are given there. Fails in words: which record
    /// is another by now, or what the store said.
    Result<void> keep(Store& store) const;
    /// `open`, noting in `log` what is stored.
    static StoreOpener noting(std::shared_ptr<TrialLog> log, StoreOpener open);

  private:
    /// What has become of one record.
    struct Record {
        std::string table;
        RecordKey key;  ///< in the trial, by now
        bool wasThere = true, isThere = true;
        std::map<FieldIndex, Value> before, after;  ///< of the fields that were written
    };
    Record& recordOf(const RecordWrite& write, const StoredRecord& stored);
    void noteRecord(const RecordWrite& write, const StoredRecord& stored);
    void noteStep(const RecordWrite& write, const StoredRecord& stored);
    void bringBackAsThere(RecordWrite& step, const std::string& name);
    bool keepsKey(const RecordWrite& write) const;
    mutable std::mutex mutex_;
    std::string table_;
    std::vector<RecordWrite> steps_;
    std::map<std::string, std::size_t> madeBy_;  ///< by table and key in the trial, the step that made the record
    struct Deletion {
        std::size_t step = 0;
        std::shared_ptr<const TakenAlong> takenAlong;
    };
    std::map<std::string, Deletion> deletedBy_;  ///< by table and key in the trial, the step that deleted the record
    std::vector<Record> records_;
};

}  // namespace jollyrow
