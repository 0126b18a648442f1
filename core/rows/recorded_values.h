// SPDX-License-Identifier: MIT
#pragma once
// RecordedValues: what cells held before, of the columns whose faces show it. Noted as they change, by edits and by
// reloads, while a source is bound. Any thread; locked inside.

#include <deque>
#include <functional>
#include <map>
#include <mutex>
#include <optional>
#include <utility>
#include <vector>

#include "core/columns/edits.h"

namespace jollyrow {

class RecordedValues final {
  public:
    static constexpr std::size_t kMostEach = 100;      ///< of a cell; older ones go
    static constexpr std::size_t kMostCells = 50'000;  ///< with any; those that changed longest ago go

    /// What a cell held until now. NaN for nothing: a gap.
    void note(SourceRow row, FieldIndex field, double before);
    /// The cell holds again what was noted last, which then is no change; notes `before` when it is not.
    void takeBack(SourceRow row, FieldIndex field, double before, double now);
    /// The oldest first, without what it holds now.
    std::vector<double> before(SourceRow row, FieldIndex field) const;
    /// A reload: records are on other rows, fields have other numbers; nullopt: gone. O(cells).
    void move(const std::function<std::optional<Edits::Place>(Edits::Place)>& now);
    void clear();
    std::size_t cells() const;

  private:
    void trim();

    struct Cell {
        std::deque<double> values;
        std::uint64_t turn = 0;  ///< when it changed last
    };
    mutable std::mutex mutex_;
    std::map<Edits::Place, Cell> cells_;  // guarded by mutex_
    std::uint64_t turn_ = 0;              // guarded by mutex_
};

}  // namespace jollyrow
