// SPDX-License-Identifier: MIT
#include "grid/line_source.h"

#include "core/formats/text_format.h"

namespace jollyrow {
namespace {

CellMark markOf(EditState state) {
    switch (state) {
        case EditState::Saving: return CellMark::Saving;
        case EditState::Saved: return CellMark::Saved;
        case EditState::Refused: return CellMark::Refused;
    }
    return CellMark::None;
}

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
    out.text.clear();
    out.isEmpty = out.isPending = out.isMisfit = out.isChecked = false;
    out.mark = CellMark::None;
    const PlannedColumn& planned = plan_->columns[static_cast<std::size_t>(column)];
    const SourceRow row = snapshot_->line(line).row;
    if (const CellEdit* edit = snapshot_->edits->find(row, planned.field)) {
        out.mark = markOf(edit->state);
        out.isEmpty = isEmpty(edit->value);
        out.isChecked = edit->value == Value(true);
        return appendDisplay(out.text, edit->value, planned.format);
    }
    const Column* values = snapshot_->table->column(planned.field);
    if (!values) {
        out.isPending = true;
        return;
    }
    out.isEmpty = values->isEmpty(row);
    if (out.isEmpty) {
        if (const auto misfit = values->misfit(row)) {
            out.isMisfit = true;
            out.isEmpty = false;
            out.text = *misfit;
        }
        return;
    }
    if (planned.format.type == Type::Boolean) out.isChecked = values->integer(row) != 0;
    appendDisplay(out.text, *values, row, planned.format);
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
