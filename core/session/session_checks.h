// SPDX-License-Identifier: MIT
#pragma once
// SessionChecks: what is wrong with edited records: by the design's rules, by the application's functions, by what the
// store has already. Confined to the session's thread.

#include <functional>
#include <optional>
#include <set>
#include <span>
#include <string_view>
#include <vector>

#include "core/session/bound_records.h"
#include "core/session/cell_write.h"
#include "core/session/edited_view.h"
#include "core/session/enquiries.h"
#include "core/session/record_checks.h"

namespace jollyrow {

class SessionChecks final {
  public:
    struct Hooks {
        std::function<void(SourceRow)> left;      ///< a check that a record was left with has answered
        std::function<void(SourceRow)> answered;  ///< one that it waits for
    };
    SessionChecks(BoundRecords& bound, EditedView& view, Enquiries& enquiries, Hooks hooks);

    /// What functions of the application check of each record that is edited, besides the design's rules.
    void set(std::vector<RecordCheck> checks);
    /// What a check would say to this value in the cell: the first problem of the field; nullopt when there is none.
    std::optional<RecordProblem> problemWith(SourceRow row, FieldIndex field, const Value& value) const {
        return problemsWith({{row, field, value}}).front();
    }
    /// The same of many that come together, in their order. O(cells + records * checks).
    std::vector<std::optional<RecordProblem>> problemsWith(const std::vector<CellWrite>& cells) const;

    // ---- For the session's parts
    /// The problems of these records, as they stand now, are noted with their edits.
    void find(std::span<const SourceRow> rows);
    /// Of all: the checks, or the fields that they read, are others now.
    void findAll();
    /// Fields are others.
    void forget() { checks_.forget(); }
    /// Rows mean other records now.
    void forgetRows();
    /// Something was stored in this table: what was answered of it is to be asked again.
    void doubt(std::string_view table) { checks_.doubt(table); }
    /// Asks what has no answer yet, or one in doubt.
    void askPresence();
    /// The record is left while a check has not answered.
    void noteLeft(SourceRow row) { left_.insert(row); }

  private:
    void addFound(SourceRow row, std::vector<RecordProblem>& problems);
    void answered(SourceRow row);

    BoundRecords& bound_;
    EditedView& view_;
    Enquiries& enquiries_;
    Hooks hooks_;
    RecordChecks checks_{[this](SourceRow row) { answered(row); }};
    std::set<SourceRow> left_;
};

}  // namespace jollyrow
