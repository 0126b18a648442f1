// SPDX-License-Identifier: MIT
#pragma once
// SaveQueue: the write side of a session. Every cell that is saved has a number; one that was handed in while an
// earlier save of the same cell, of the record's key, or of the record itself had no answer yet builds on what that one
// left. Confined to the store's thread.

#include <cstdint>
#include <map>
#include <memory>
#include <string>
#include <utility>
#include <vector>

#include "core/editing/joint_save.h"
#include "core/sources/source.h"

namespace jollyrow {

/// Opens the store of a session's source, when the first save wants it.
using StoreOpener = std::function<Result<std::unique_ptr<Store>>()>;

/// One record of a save.
struct RecordSave {
    RecordWrite request;
    std::uint64_t id = 0;  ///< of the record in this save
    /// By change: the number of this save of the cell, and of the unanswered one before it (0 = none), whose value is
    /// what is stored by then.
    struct Cell {
        std::uint64_t id = 0, after = 0;
    };
    std::vector<Cell> cells;
    /// Parts of the key with an unanswered save of theirs.
    std::vector<std::pair<std::size_t, std::uint64_t>> keyAfter = {};
    std::uint64_t versionAfter = 0;  ///< the unanswered RecordSave before this one, whose version stands by then
    std::uint64_t insertedBy = 0;    ///< the unanswered RecordSave that inserts the record; 0 = none
};

/// What is noted elsewhere about a save, on the store's thread; either may be empty.
struct SaveNotes {
    std::function<void()> before;  ///< waits until what is saved is kept, before the store is asked
    std::function<void(std::size_t record, const RecordKey& key)> prepared;  ///< Store::Prepared, by Save::records
};

struct Save {
    std::uint64_t serial = 0;
    std::vector<RecordSave> records;
    Atomicity atomicity = Atomicity::EachRecord;
    SaveNotes notes = {};
    std::shared_ptr<JointSave> joint = nullptr;  ///< with saves of other sessions, in one transaction
    std::uint64_t oldest = 0;                    ///< nobody builds on what has a smaller number any more
};

class SaveQueue final {
  public:
    explicit SaveQueue(StoreOpener open) : open_(std::move(open)) {}
    /// An outcome a record; an error when the store took none.
    Result<std::vector<Outcome>> write(Save save);
    /// Store::seenElsewhere().
    Result<SeenElsewhere> look(const TableSchema& schema, const std::vector<FieldIndex>& keyFields);

  private:
    Result<void> makeReady();
    void buildOn(RecordSave& record) const;
    void note(const RecordSave& record, const Outcome* outcome);

    StoreOpener open_;
    std::unique_ptr<Store> store_;
    std::map<std::uint64_t, Value> left_;  ///< by number of a cell's save, good or failed, what it held then
    struct Made {
        RecordKey key;
        std::map<FieldIndex, Value> others;  ///< what the store gave its other fields
    };
    std::map<std::uint64_t, Value> versions_;  ///< by number of a record's save, the version it left
    std::map<std::uint64_t, Made> made_;       ///< inserted records, by number of their save
};

}  // namespace jollyrow
