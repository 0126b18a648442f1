// SPDX-License-Identifier: MIT
#pragma once
// SaveAnswers: what the store has said to a save goes into the records, and what follows from it is read again.
// Confined to the session's thread.

#include <cstdint>
#include <functional>
#include <span>
#include <string>
#include <vector>

#include "core/session/bound_records.h"
#include "core/session/edited_view.h"
#include "core/session/enquiries.h"
#include "core/session/record_finder.h"
#include "core/session/session_checks.h"

namespace jollyrow {

class SaveAnswers final {
  public:
    struct Hooks {
        std::function<void()> taken;      ///< the edits say what has become of the save
        std::function<void()> readAgain;  ///< the table is to be read again, as soon as can be
    };
    SaveAnswers(BoundRecords& bound, RecordFinder& finder, EditedView& view, SessionChecks& checks,
                Enquiries& enquiries, Hooks hooks);

    void take(std::uint64_t serial, const RecordJournal::Answers& answers);
    /// A reload's rows are about to take the place of the older ones, and have.
    void moving();
    void moved();
    /// Another source.
    void forget() { insertsMayBeRead_ = false; }

  private:
    void noteAnswered(const RecordJournal::Answered& answer);
    void tell(const std::vector<RecordJournal::Answered>& taken) const;
    void readDoubledAgain(const std::vector<RecordJournal::Answered>& answers);
    void readRelatedAgain(SourceRow row, std::span<const FieldIndex> changed);
    std::vector<FieldIndex> relatedBy(std::span<const FieldIndex> changed) const;
    std::string wordsOf(const Conflict& conflict, const std::string& changedBy) const;

    BoundRecords& bound_;
    RecordFinder& finder_;
    EditedView& view_;
    SessionChecks& checks_;
    Enquiries& enquiries_;
    Hooks hooks_;
    bool insertsMayBeRead_ = false;  ///< the table was read while the store inserted records
};

}  // namespace jollyrow
