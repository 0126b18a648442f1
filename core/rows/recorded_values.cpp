// SPDX-License-Identifier: MIT
// Covered by tests/rows/recorded_values_test.cpp and tests/session/session_test.cpp.
#include "core/rows/recorded_values.h"

#include <algorithm>

namespace jollyrow {

void RecordedValues::note(SourceRow row, FieldIndex field, double before) {
    const std::lock_guard lock(mutex_);
    Cell& cell = cells_[{row, field}];
    cell.turn = ++turn_;
    cell.values.push_back(before);
    if (cell.values.size() > kMostEach) cell.values.pop_front();
    if (cells_.size() > kMostCells) trim();
}

void RecordedValues::takeBack(SourceRow row, FieldIndex field, double before, double now) {
    {
        const std::lock_guard lock(mutex_);
        const auto cell = cells_.find({row, field});
        if (cell != cells_.end() && !cell->second.values.empty() && cell->second.values.back() == now) {
            cell->second.values.pop_back();
            if (cell->second.values.empty()) cells_.erase(cell);
            return;
        }
    }
    note(row, field, before);
}

std::vector<double> RecordedValues::before(SourceRow row, FieldIndex field) const {
    const std::lock_guard lock(mutex_);
    const auto cell = cells_.find({row, field});
    if (cell == cells_.end()) return {};
    return {cell->second.values.begin(), cell->second.values.end()};
}

void RecordedValues::move(const std::function<std::optional<Edits::Place>(Edits::Place)>& now) {
    const std::lock_guard lock(mutex_);
    std::map<Edits::Place, Cell> moved;
    for (auto& [place, cell] : cells_)
        if (const auto to = now(place)) moved.emplace(*to, std::move(cell));
    cells_ = std::move(moved);
}

void RecordedValues::clear() {
    const std::lock_guard lock(mutex_);
    cells_.clear();
}

std::size_t RecordedValues::cells() const {
    const std::lock_guard lock(mutex_);
    return cells_.size();
}

/// Half of them, so that it is done seldom.
void RecordedValues::trim() {
    std::vector<std::uint64_t> turns;
    turns.reserve(cells_.size());
    for (const auto& [place, cell] : cells_) turns.push_back(cell.turn);
    const auto middle = turns.begin() + static_cast<std::ptrdiff_t>(turns.size() / 2);
    std::nth_element(turns.begin(), middle, turns.end());
    std::erase_if(cells_, [&](const auto& entry) { return entry.second.turn < *middle; });
}

}  // namespace jollyrow
