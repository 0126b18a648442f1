// SPDX-License-Identifier: MIT
#pragma once
// Record: one record as an application sees it: typed values by field name. Immutable; keeps its data alive, so it may
// be stored and read later, and on any thread. It does not follow later edits.

#include <QString>

#include <memory>
#include <string_view>

#include "core/columns/row_ref.h"
#include "core/columns/table.h"

namespace jollyrow {

struct Snapshot;
struct ViewPlan;

class Record final {
  public:
    Record() = default;
    /// Requires: `ref` was made for this snapshot (Session::refOf).
    Record(std::shared_ptr<const Snapshot> snapshot, RowRef ref, std::shared_ptr<const ViewPlan> plan = nullptr);

    /// False for "no record", e.g. when nothing is selected. All others answer Empty then.
    bool isValid() const { return snapshot_ != nullptr; }
    /// Empty when the field is empty or there is no such field. Of a picture that stays in the database how long it is
    /// (Unread); SessionRecords::bytesReader brings it. O(fields).
    Value value(std::string_view field) const;
    /// The value as its column shows it.
    QString text(std::string_view field) const;
    /// The value in plain form: exact digits, ISO 8601 dates.
    QString plain(std::string_view field) const;
    /// What names the record at its source; empty when nothing does.
    RecordKey key() const;
    /// Its row in the snapshot it was taken from; over a reload it is ref() that names the record.
    SourceRow row() const { return ref_.row; }
    const RowRef& ref() const { return ref_; }

  private:
    std::shared_ptr<const Snapshot> snapshot_;
    RowRef ref_;
    std::shared_ptr<const ViewPlan> plan_;
};

}  // namespace jollyrow
