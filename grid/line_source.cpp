// SPDX-License-Identifier: MIT
#include "grid/line_source.h"

namespace jollyrow {
namespace {

int gravity(CellMark mark) {
    switch (mark) {
        case CellMark::None: return 0;
        case CellMark::Saved: return 1;
        case CellMark::Saving: return 2;
        case CellMark::Refused: return 3;
    }
    return 0;
}

}  // namespace

SnapshotLines::SnapshotLines(std::shared_ptr<const Snapshot> snapshot, std::shared_ptr<const ViewPlan> plan)
    : snapshot_(std::move(snapshot)), plan_(std::move(plan)) {}

std::int64_t SnapshotLines::lineCount() const { return snapshot_->lineCount(); }

void SnapshotLines::cell(ViewLine line, int column, CellText& out) const {
    readCell(*snapshot_, snapshot_->line(line).row, plan_->columns[static_cast<std::size_t>(column)], out);
}

CellMark SnapshotLines::recordMark(ViewLine line) const {
    if (snapshot_->edits->empty()) return CellMark::None;
    const SourceRow row = snapshot_->line(line).row;
    CellMark gravest = CellMark::None;
    const auto& cells = snapshot_->edits->cells();
    for (auto at = cells.lower_bound({row, FieldIndex{0}}); at != cells.end() && at->first.first == row; ++at)
        if (gravity(markOf(at->second.state)) > gravity(gravest)) gravest = markOf(at->second.state);
    return gravest;
}

}  // namespace jollyrow
