// SPDX-License-Identifier: MIT
#pragma once
// DraftKeeper: keeps a session's unsaved edits in a DraftFile, behind the window, as they change; and holds what
// earlier sessions have left. Confined to the owner's thread but for the file's own.

#include <cstdint>
#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/base/post.h"
#include "core/base/worker.h"
#include "core/editing/carried_edits.h"
#include "core/editing/draft_file.h"
#include "core/editing/save_queue.h"

namespace jollyrow {

class DraftKeeper final {
  public:
    struct Hooks {
        std::function<void(const Error&)> onFailure;  ///< something cannot be kept; said once until it can again
        std::function<void()> onLeft;                 ///< left() has what earlier sessions have left
        std::function<void(std::uint64_t)> onKept;    ///< everything up to this number of a sync() is on disk
    };
    DraftKeeper(Post post, Hooks hooks) : post_(std::move(post)), hooks_(std::move(hooks)) {}
    /// Other records: those of `table` at `source`. With an empty folder nothing is kept.
    void begin(const std::string& folder, const std::string& source, const std::string& table);
    /// Waits until what was handed over is on disk, and lets the file go when nothing is unsaved.
    void finish();

    /// Hands over what has changed since the last time. Returns a number for onKept; the same as before when nothing
    /// has. O(what has changed).
    std::uint64_t sync(const Table& table, const std::shared_ptr<const Edits>& edits);
    /// A reload: `edits` are the carried ones.
    void moveRows(const RowMoves& moves);
    std::uint64_t keptNumber() const { return kept_; }
    /// What earlier sessions have left is known, or cannot be.
    bool isReady() const { return isReady_; }
    /// For a save of these rows, after their sync(): waits until that is on disk, so that the database never knows more
    /// than the drafts do; and notes the keys of new records. What it returns is not for the owner's thread.
    SaveNotes preparing(std::span<const SourceRow> rows);

    const std::vector<KeptRecord>& left() const { return left_; }
    std::size_t unreadable() const { return unreadable_; }
    /// These are in the session's edits now, or not wanted; the next sync() settles them.
    void letGo(const std::vector<std::string>& ids);

  private:
    std::optional<KeptRecord> keptOf(const Table& table, const Edits& edits, SourceRow row) const;
    void write(std::vector<KeptRecord> records);

    Post post_;
    Hooks hooks_;
    std::shared_ptr<DraftFile> file_;  ///< used on the worker only; null: nothing is kept
    std::shared_ptr<const Edits> last_ = std::make_shared<Edits>();
    std::map<SourceRow, KeptRecord> live_;  ///< as they were handed over last
    std::vector<KeptRecord> settled_;       ///< to be handed over
    std::vector<KeptRecord> left_;
    std::size_t unreadable_ = 0;
    std::uint64_t nextId_ = 1, number_ = 0, kept_ = 0;
    bool hasFailed_ = false, isReady_ = true;
    std::uint64_t session_ = 0;  ///< counts begin()
    Worker worker_;
};

}  // namespace jollyrow
