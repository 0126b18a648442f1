// SPDX-License-Identifier: MIT
#include "grid/layout/rows_view.h"

namespace jollyrow {
SnapshotRows::SnapshotRows(std::shared_ptr<const Snapshot> snapshot, std::shared_ptr<const ViewPlan> plan)
    : snapshot_(std::move(snapshot)), plan_(std::move(plan)), groups_(snapshot_, plan_) {}

std::int64_t SnapshotRows::lineCount() const { return snapshot_->lineCount(); }

CellReader& SnapshotRows::readerOf(int column) const {
    const auto at = static_cast<std::size_t>(column);
    if (readers_.empty()) readers_.resize(plan_->columns.size());
    if (!readers_[at]) readers_[at] = std::make_unique<CellReader>(*snapshot_, plan_->columns[at]);
    return *readers_[at];
}

CellStyle SnapshotRows::style(ViewLine line, int column) const {
    if (plan_->styles.empty()) return {};
    if (!styles_) styles_ = std::make_unique<StyleReader>(*snapshot_, plan_->styles);
    return styles_->of(rowAt(line), plan_->columns[static_cast<std::size_t>(column)].field);
}

const PlannedBanner* SnapshotRows::banner(ViewLine line) const {
    if (snapshot_->banners.empty()) return nullptr;
    if (!banners_) banners_ = std::make_unique<BannerReader>(*snapshot_, *plan_);
    const SourceRow row = snapshot_->line(line).row;
    return row == kNoRow ? nullptr : banners_->of(row);
}

void SnapshotRows::caption(ViewLine line, std::string& out) const {
    if (const PlannedBanner* found = banner(line)) banners_->appendCaption(rowAt(line), *found, out);
}

void SnapshotRows::cell(ViewLine line, int column, CellText& out) const {
    const Line at = snapshot_->line(line);
    if (at.kind == LineKind::Record) return readerOf(column).read(at.row, out);
    // What is read aloud and copied of a group's line: its figures, and its caption where the line begins.
    out = {};
    std::vector<FigureText> figures;
    groups_.figures(at, column, figures);
    if (column == 0) groups_.caption(at, out.text);
    for (const FigureText& figure : figures)
        out.text += (out.text.empty() ? "" : ", ") + (figure.label.empty() ? "" : figure.label + " ") + figure.text;
    out.isEmpty = out.text.empty();
}

CellMark SnapshotRows::recordMark(ViewLine line) const {
    if (snapshot_->edits->empty()) return CellMark::None;
    const SourceRow row = snapshot_->line(line).row;
    const RecordEdit* edited = row == kNoRow ? nullptr : snapshot_->edits->record(row);
    return edited ? recordMarkOf(*edited) : CellMark::None;
}

}  // namespace jollyrow
