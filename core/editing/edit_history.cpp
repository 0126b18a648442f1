// SPDX-License-Identifier: MIT
// Covered by tests/session/records_test.cpp and deleting_test.cpp.
#include "core/editing/edit_history.h"

#include <algorithm>
#include <iterator>
#include <map>

#include "core/sources/source.h"

namespace jollyrow {
namespace {

template <class Steps, class Visit>
void forEachRow(Steps& steps, const Visit& visit) {
    for (EditStep& step : steps) {
        for (auto& cell : step.cells) visit(cell.row);
        for (auto& record : step.inserted) visit(record.row);
        for (auto& record : step.removed) visit(record.row);
    }
}

/// Fields are counted in the next table; what it does not have is let go.
void moveFields(EditStep& step, const TableSchema& from, const TableSchema& to) {
    const auto moved = [&](FieldIndex field) { return to.find(from.field(field).name); };
    std::erase_if(step.cells, [&](const EditStep::Cell& cell) { return !moved(cell.field); });
    for (auto& cell : step.cells) cell.field = *moved(cell.field);
    for (auto* records : {&step.inserted, &step.removed})
        for (auto& record : *records) {
            std::erase_if(record.values, [&](const auto& value) { return !moved(value.first); });
            for (auto& [field, value] : record.values) field = *moved(field);
        }
}

}  // namespace

void EditHistory::clear() {
    done_.clear();
    undone_.clear();
    open_.reset();
    depth_ = 0;
    gone_.clear();
    nextLost_ = kFirstLost;
}

void EditHistory::begin(std::string label) {
    if (depth_++ > 0) return;
    open_.emplace();
    open_->label = std::move(label);
}

void EditHistory::end() {
    if (depth_ == 0 || --depth_ > 0) return;
    EditStep step = std::move(*open_);
    open_.reset();
    note(std::move(step));
}

void EditHistory::note(EditStep step) {
    if (replaying_ || step.empty()) return;
    if (open_) {
        std::move(step.cells.begin(), step.cells.end(), std::back_inserter(open_->cells));
        std::move(step.inserted.begin(), step.inserted.end(), std::back_inserter(open_->inserted));
        std::move(step.removed.begin(), step.removed.end(), std::back_inserter(open_->removed));
        return;
    }
    undone_.clear();
    done_.push_back(std::move(step));
    if (done_.size() > kMost) done_.pop_front();
    if (noted_) noted_(done_.back());
}

std::optional<EditStep> EditHistory::undo() {
    if (done_.empty()) return std::nullopt;
    undone_.push_back(std::move(done_.back()));
    done_.pop_back();
    return undone_.back();
}

std::optional<EditStep> EditHistory::redo() {
    if (undone_.empty()) return std::nullopt;
    done_.push_back(std::move(undone_.back()));
    undone_.pop_back();
    return done_.back();
}

void EditHistory::given(SourceRow row, const std::map<FieldIndex, Value>& values) {
    const auto give = [&](EditStep& step) {
        for (EditStep::Removed& record : step.inserted) record.wasStored = record.wasStored || record.row == row;
        for (EditStep::Cell& cell : step.cells) {
            if (cell.row != row || !cell.isUntyped) continue;
            cell.isUntyped = false;
            if (const auto value = values.find(cell.field); value != values.end()) cell.before = value->second;
        }
    };
    for (auto* steps : {&done_, &undone_}) std::for_each(steps->begin(), steps->end(), give);
    if (open_) give(*open_);
}

void EditHistory::moved(SourceRow from, SourceRow to) {
    const auto visit = [&](SourceRow& row) {
        if (row == from) row = to;
    };
    forEachRow(done_, visit);
    forEachRow(undone_, visit);
    gone_.erase(from);
}

void EditHistory::noteGone(std::span<const SourceRow> rows) { gone_.insert(rows.begin(), rows.end()); }

void EditHistory::noteTakenAlong(SourceRow row, const std::shared_ptr<const TakenAlong>& taken) {
    const auto keep = [&](EditStep& step) {
        for (auto* records : {&step.inserted, &step.removed})
            for (EditStep::Removed& record : *records) {
                if (record.row != row) continue;
                record.takenAlong = taken;
                record.isTooMuch = taken && !taken->isWhole();
            }
    };
    for (auto* steps : {&done_, &undone_}) std::for_each(steps->begin(), steps->end(), keep);
    if (open_) keep(*open_);
}

std::map<SourceRow, SourceRow> EditHistory::moveRows(const RowMoves& moves, const TableSchema& from,
                                                     const TableSchema& to) {
    std::map<SourceRow, SourceRow> lost;  // one record is one number wherever it is named
    const auto visit = [&](SourceRow& row) {
        if (isLost(row)) return;
        if (const auto now = moves.now(row)) {
            row = *now;
            return;
        }
        const auto known = lost.try_emplace(row, SourceRow{nextLost_});
        if (known.second && nextLost_ + 1 < raw(kNoRow)) ++nextLost_;
        row = known.first->second;
    };
    for (auto* steps : {&done_, &undone_}) {
        forEachRow(*steps, visit);
        if (from.fields == to.fields) continue;
        for (EditStep& step : *steps) moveFields(step, from, to);
    }
    std::set<SourceRow> gone;
    for (SourceRow row : gone_) {
        visit(row);
        gone.insert(row);
    }
    gone_ = std::move(gone);
    return lost;
}

}  // namespace jollyrow
