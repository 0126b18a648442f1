// SPDX-License-Identifier: MIT
#pragma once
// ViewComputer: runs the Rowline on a thread of its own and hands back what it made. Confined to the owner's thread but
// for that one.

#include <functional>
#include <memory>
#include <optional>
#include <vector>

#include "core/base/latest.h"
#include "core/base/post.h"
#include "core/base/worker.h"
#include "core/columns/key_index.h"
#include "core/editing/record_journal.h"
#include "core/rows/rowline.h"

namespace jollyrow {

/// The indexes of the two newest tables, and the way between them.
class TableKeys final {
  public:
    std::shared_ptr<const KeyIndex> of(const std::shared_ptr<const Table>& table);
    std::shared_ptr<const std::vector<std::uint32_t>> moves(const std::shared_ptr<const KeyIndex>& from,
                                                            const std::shared_ptr<const KeyIndex>& to);

  private:
    std::vector<std::shared_ptr<const KeyIndex>> known_;
    std::shared_ptr<const KeyIndex> from_, to_;
    std::shared_ptr<const std::vector<std::uint32_t>> moves_;
};

/// A number that a reload changed, of a field whose earlier values are kept.
struct RecordedChange {
    Edits::Place before;  ///< where it stood in the older table
    double number = 0;    ///< what was shown there
};

/// What the worker made.
struct MadeView {
    Result<std::shared_ptr<const Snapshot>> snapshot = Error{};
    std::shared_ptr<const KeyIndex> keys;                     ///< of a reload
    std::shared_ptr<const std::vector<std::uint32_t>> byKey;  ///< of a reload: by older row
    std::vector<RecordedChange> changes;                      ///< of a reload
};

class ViewComputer final {
  public:
    using KeysMade = std::function<void(const std::shared_ptr<const KeyIndex>&, std::uint64_t generation)>;
    /// `keysMade`: the index of a table that is whole, soon after the view of this generation was shown; nobody waits
    /// for it.
    ViewComputer(Post post, KeysMade keysMade) : post_(std::move(post)), keysMade_(std::move(keysMade)) {}
    void stop();
    /// What is under way is of another source.
    void forget() { newest_.next(); }

    /// A reload: the table that is shown, whose edits are carried over to the one of the input.
    struct Reload {
        std::shared_ptr<const Table> before;
        RecordJournal::Carriage carriage;
        std::shared_ptr<const Table> shown = nullptr;  ///< the same with its computed columns
        std::vector<FieldIndex> recorded = {};         ///< of the older table, whose changes are wanted
    };
    /// `done` on the owner's thread, unless a newer view was asked for meanwhile.
    void compute(RowlineInput input, std::optional<Reload> reload, std::function<void(const MadeView&)> done);
    using PickDone = std::function<void(const Result<std::shared_ptr<const PickList>>&)>;
    void pickList(RowlineInput input, FieldIndex field, std::optional<std::size_t> leftOut, TextOrder order,
                  PickDone done);

  private:
    MadeView made(RowlineInput input, const std::optional<Reload>& reload, const Cancel& cancel);

    Post post_;
    KeysMade keysMade_;
    Latest newest_, pick_;
    Rowline rowline_;  ///< used on the worker only
    TableKeys keys_;   ///< used on the worker only
    Worker worker_;
};

}  // namespace jollyrow
