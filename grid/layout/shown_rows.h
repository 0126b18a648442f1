// SPDX-License-Identifier: MIT
#pragma once
// ShownRows: the rows view that the grid shows just now, and what is asked of its lines all over the grid. Answers for
// lines that are not there, and before anything is bound, with "no".

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>

#include "grid/layout/rows_view.h"

namespace jollyrow {

/// Used on the window's thread only.
class ShownRows final {
  public:
    /// `plan`: whose columns the view answers for.
    void show(std::unique_ptr<const RowsView> view, const ViewPlan* plan) {
        view_ = std::move(view);
        plan_ = plan;
    }
    /// Null before anything is bound.
    const RowsView* view() const { return view_.get(); }
    bool areOf(const ViewPlan& plan) const { return plan_ == &plan; }

    std::int64_t count() const { return view_ ? view_->lineCount() : 0; }
    bool has(std::int64_t line) const { return line >= 0 && line < count(); }
    /// kNoRow on lines of groups and those that are not there.
    SourceRow rowAt(std::int64_t line) const { return has(line) ? view_->rowAt(static_cast<ViewLine>(line)) : kNoRow; }
    bool isRecord(std::int64_t line) const { return isKind(line, LineKind::Record); }
    /// The record on this line is drawn as a heading; null where it is not.
    const PlannedBanner* banner(std::int64_t line) const {
        return has(line) ? view_->banner(static_cast<ViewLine>(line)) : nullptr;
    }
    bool isFooter(std::int64_t line) const { return groups() && isKind(line, LineKind::GroupFooter); }
    /// Requires: has(line).
    Line at(std::int64_t line) const { return view_->lineAt(static_cast<ViewLine>(line)); }
    void cell(std::int64_t line, int column, CellText& out) const {
        view_->cell(static_cast<ViewLine>(line), column, out);
    }

    const GroupText* groupText() const { return view_ ? view_->groupText() : nullptr; }
    const GroupedLines* groups() const { return view_ ? view_->groups() : nullptr; }
    /// The group whose own line this is.
    std::optional<std::uint32_t> groupOn(std::int64_t line) const {
        return groups() && isKind(line, LineKind::Group) ? std::optional(at(line).group) : std::nullopt;
    }
    /// The line of the group with this path; nullopt when it is not shown. O(groups).
    std::optional<std::int64_t> lineOfGroup(std::uint64_t path) const;
    /// Hands over the records that selecting a line selects: one, or those of a group. Requires: has(line).
    void forEachRow(std::int64_t line, const std::function<void(SourceRow)>& take) const;

  private:
    bool isKind(std::int64_t line, LineKind kind) const { return has(line) && at(line).kind == kind; }
    std::unique_ptr<const RowsView> view_;
    const ViewPlan* plan_ = nullptr;
};

}  // namespace jollyrow
