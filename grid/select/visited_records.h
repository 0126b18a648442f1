// SPDX-License-Identifier: MIT
#pragma once
// VisitedRecords: where a person has been in the grid, for going back and forward. Neighbouring lines count as one
// stay.

#include <optional>
#include <vector>

#include "core/base/indexes.h"

namespace jollyrow {

class VisitedRecords final {
  public:
    /// The current record moved by `distance` lines to `row`.
    void note(SourceRow row, std::int64_t distance) {
        const bool isStep = distance >= -1 && distance <= 1 && !rows_.empty();
        if (isStep) {
            rows_[at_] = row;
            return;
        }
        if (!rows_.empty() && rows_[at_] == row) return;
        if (!rows_.empty()) rows_.resize(at_ + 1);
        rows_.push_back(row);
        if (rows_.size() > kMost) rows_.erase(rows_.begin());
        at_ = rows_.size() - 1;
    }
    std::optional<SourceRow> back() { return at_ == 0 || rows_.empty() ? std::nullopt : std::optional(rows_[--at_]); }
    std::optional<SourceRow> forward() {
        return rows_.empty() || at_ + 1 >= rows_.size() ? std::nullopt : std::optional(rows_[++at_]);
    }
    /// After a reload: the rows that the records have now; those that are gone leave the way.
    template <class Now>
    void moveRows(const Now& now) {
        std::vector<SourceRow> moved;
        std::size_t at = 0;
        for (std::size_t i = 0; i < rows_.size(); ++i) {
            if (const std::optional<SourceRow> row = now(rows_[i])) moved.push_back(*row);
            if (i == at_) at = moved.empty() ? 0 : moved.size() - 1;
        }
        rows_ = std::move(moved);
        at_ = at;
    }
    void clear() {
        rows_.clear();
        at_ = 0;
    }

  private:
    static constexpr std::size_t kMost = 100;
    std::vector<SourceRow> rows_;
    std::size_t at_ = 0;
};

}  // namespace jollyrow
