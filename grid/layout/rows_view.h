// SPDX-License-Identifier: MIT
#pragma once
// RowsView: the seam behind which the grid's lines come from: a snapshot in this process, or later the windows of a
// server. The grid asks for the lines, cells and records it can see and cannot tell which it is; a cell may still be on
// its way.

#include <cstdint>
#include <memory>
#include <string>

#include "core/columns/type.h"
#include "core/design/cell_text.h"
#include "core/design/plan.h"
#include "core/design/planned_banner.h"
#include "core/rows/snapshot.h"
#include "grid/groups/group_text.h"

namespace jollyrow {

/// Used on the window's thread only.
class RowsView {
  public:
    virtual ~RowsView() = default;
    virtual std::int64_t lineCount() const = 0;
    /// Requires: 0 <= line < lineCount(); column is an index into the plan's columns.
    virtual void cell(ViewLine line, int column, CellText& out) const = 0;
    /// What needs attention in the whole record, for the gutter: the gravest mark of any of its cells.
    virtual CellMark recordMark(ViewLine line) const = 0;
    /// The record on a line, for selections that outlive a sort; kNoRow on other lines.
    virtual SourceRow rowAt(ViewLine line) const = 0;
    /// What styles give a cell of a record.
    virtual CellStyle style(ViewLine /*line*/, int /*column*/) const { return {}; }
    /// The record on a line is drawn as a heading; null where it is not.
    virtual const PlannedBanner* banner(ViewLine /*line*/) const { return nullptr; }
    /// Appends what that says. Requires: it is one.
    virtual void caption(ViewLine /*line*/, std::string& /*out*/) const {}
    /// What reads the composed face of a column; null for one that is shown by its type.
    virtual const FaceReader* face(int /*column*/) const { return nullptr; }
    /// What stands on a line.
    virtual Line lineAt(ViewLine line) const { return {LineKind::Record, rowAt(line)}; }
    /// What group lines show; null where there are none.
    virtual const GroupText* groupText() const { return nullptr; }
    /// The open and closed groups that the lines come from; null without groups.
    virtual const GroupedLines* groups() const { return nullptr; }
};

/// Lines of a snapshot. Holds both; immutable.
class SnapshotRows final : public RowsView {
  public:
    SnapshotRows(std::shared_ptr<const Snapshot> snapshot, std::shared_ptr<const ViewPlan> plan);
    std::int64_t lineCount() const override;
    void cell(ViewLine line, int column, CellText& out) const override;
    CellMark recordMark(ViewLine line) const override;
    SourceRow rowAt(ViewLine line) const override { return snapshot_->line(line).row; }
    Line lineAt(ViewLine line) const override { return snapshot_->line(line); }
    CellStyle style(ViewLine line, int column) const override;
    const PlannedBanner* banner(ViewLine line) const override;
    void caption(ViewLine line, std::string& out) const override;
    const FaceReader* face(int column) const override { return readerOf(column).face(); }
    const GroupText* groupText() const override { return &groups_; }
    const GroupedLines* groups() const override { return snapshot_->grouped.get(); }

  private:
    std::shared_ptr<const Snapshot> snapshot_;
    std::shared_ptr<const ViewPlan> plan_;
    CellReader& readerOf(int column) const;
    GroupText groups_;
    mutable std::unique_ptr<StyleReader> styles_;               ///< made when first asked for
    mutable std::unique_ptr<BannerReader> banners_;             ///< the same
    mutable std::vector<std::unique_ptr<CellReader>> readers_;  ///< by column, made when first asked for
};

}  // namespace jollyrow
