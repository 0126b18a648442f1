// SPDX-License-Identifier: MIT
#pragma once
// SessionElsewhere: what others save of the records that a session shows: told by those who know, or looked for by the
// store, and shown in place. Where the store says only that there is something, the records are read beside and
// compared. Confined to the session's thread.

#include <cstdint>
#include <functional>
#include <memory>
#include <span>
#include <string>
#include <utility>
#include <vector>

#include "core/session/bound_records.h"
#include "core/session/edited_view.h"
#include "core/session/record_finder.h"
#include "core/session/record_loading.h"
#include "core/session/rereader.h"

namespace jollyrow {

class SessionElsewhere final {
  public:
    SessionElsewhere(BoundRecords& bound, RecordFinder& finder, EditedView& view, RecordLoading& loading);
    void stop() { rereader_.stop(); }

    /// Shows what others have made of records, in place: changed ones go where they belong, added ones stand behind all
    /// others, and a cell that was typed over here is in conflict at once. False when not all could be shown:
    /// Session::reload(). Records that are being saved are left as they are: `later` is called, once, when that is
    /// answered, to ask what they hold then. O(changes * fields), and the edits that are there.
    bool take(std::span<const ElsewhereChange> changes, std::function<void(const RecordKey&)> later = {});
    /// Looks, behind, whether others have saved records of the table since it was called before, and shows what they
    /// hold now (take()); where that cannot be told, onFailure says so once. Call it several times a second; one that
    /// is called before the last has its answer does nothing, nor while records are being read.
    void look();

    // ---- For the session's parts
    /// Another source.
    void forget();
    /// Saves were answered: what others have done to their records can be told from what was done here.
    void askLater();

  private:
    std::optional<SourceRow> shownRow(const RecordKey& key, const class RowsByKey& known, const Edits& edits) const;
    bool addRecord(const ElsewhereChange& change, Edits& next, std::size_t& free, std::vector<SourceRow>& changed);
    void failed(const Error& error);
    void compare();
    void compared(const Result<std::optional<Rereader::Difference>>& found, bool isMeant);
    std::vector<ElsewhereChange> withEdited(std::vector<ElsewhereChange> changes, const KeyIndex& after) const;
    std::vector<ElsewhereChange> newsAmong(std::span<const ElsewhereChange> changes, const RowsByKey& known) const;
    bool canTake() const;
    bool takeAll(std::span<const ElsewhereChange> changes, const std::function<void(const RecordKey&)>& later,
                 RowsByKey& known);
    /// What is shown belongs to these records as they were when it was read.
    struct ReadAt {
        std::uint32_t epoch = 0;
        std::size_t answers = 0;
        bool operator==(const ReadAt&) const = default;
    };
    ReadAt now() const { return {bound_.epoch, following_.answers}; }
    void showNext(const std::shared_ptr<const std::vector<ElsewhereChange>>& changes, std::size_t first, ReadAt at);
    void show(std::span<const ElsewhereChange> changes);

    BoundRecords& bound_;
    RecordFinder& finder_;
    EditedView& view_;
    RecordLoading& loading_;
    std::vector<std::pair<RecordKey, std::function<void(const RecordKey&)>>> askedLater_;
    struct Following {
        bool isAsking = false, isImpossible = false;
        bool compares = false;    ///< all records, as soon as can be
        std::string failure;      ///< what was said last
        std::size_t answers = 0;  ///< to saves of ours: what was read before one may be older than what it stored
    } following_;
    Rereader rereader_;
};

}  // namespace jollyrow
