// SPDX-License-Identifier: MIT
#pragma once
// SessionView: what a person sets besides the design of what a session shows: parameters, stages left out, some records
// alone; and the order, which stays as it is while records are edited. Confined to the session's thread.

#include <map>
#include <memory>
#include <set>
#include <string>

#include "core/session/bound_records.h"
#include "core/session/edited_view.h"
#include "core/session/record_loading.h"

namespace jollyrow {

class SessionView final {
  public:
    SessionView(BoundRecords& bound, EditedView& view, RecordLoading& loading)
        : bound_(bound), view_(view), loading_(loading) {}

    /// The value of `:name` in rules and in a bound SELECT, which then is read again; Empty lifts the conditions that
    /// use it. Ignored when the design has no such parameter or the value is of another type.
    void setParameter(const std::string& name, const Value& value);
    const std::map<std::string, RuleValue>& parameters() const { return bound_.state.parameters; }
    /// Leaves a stage (any but Source) out for a moment, to compare; the design stays as it is.
    void setBypassed(Stage stage, bool bypassed);
    bool isBypassed(Stage stage) const { return bound_.state.isBypassed(stage); }
    /// Shows only these records besides the filter, e.g. those found; null for all. Lifted when records are read again.
    void setOnly(std::shared_ptr<const RecordSet> only);
    /// True when edits have moved records out of the sort order or the filter; they stay until resort().
    bool orderIsStale() const { return !view_.outOfPlace().empty(); }
    /// The records that edits have moved so: those whose sort keys were edited, and those the filter now leaves out.
    const std::set<SourceRow>& outOfPlace() const { return view_.outOfPlace(); }
    void resort() { view_.recompute(); }

  private:
    BoundRecords& bound_;
    EditedView& view_;
    RecordLoading& loading_;
};

}  // namespace jollyrow
