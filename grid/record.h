// SPDX-License-Identifier: MIT
#pragma once
// Record: one record as an application sees it: typed values by field name. Immutable; keeps its data alive, so it may
// be stored and read later, and on any thread. It does not follow later edits.

#include <QString>

#include <memory>
#include <string_view>

#include "core/columns/table.h"

namespace jollyrow {

struct Snapshot;
struct ViewPlan;

class Record final {
  public:
    Record() = default;
    Record(std::shared_ptr<const Snapshot> snapshot, SourceRow row, std::shared_ptr<const ViewPlan> plan = nullptr);

    /// False for "no record", e.g. when nothing is selected. All others answer Empty then.
    bool isValid() const { return snapshot_ != nullptr; }
    /// Empty when the field is empty or there is no such field. O(fields).
    Value value(std::string_view field) const;
    /// The value as its column shows it.
    QString text(std::string_view field) const;
    /// The value in plain form: exact digits, ISO 8601 dates.
    QString plain(std::string_view field) const;
    /// What names the record at its source; empty when nothing does.
    RecordKey key() const;
    SourceRow row() const { return row_; }

  private:
    std::shared_ptr<const Snapshot> snapshot_;
    SourceRow row_{};
    std::shared_ptr<const ViewPlan> plan_;
};

}  // namespace jollyrow
