// SPDX-License-Identifier: MIT
#pragma once
// GroupMenus: what a group's line and a column's heading offer of grouping and summing up.

#include <QMenu>

#include <functional>
#include <string>

#include "grid/inside/grid_context.h"
#include "grid/layout/shown_rows.h"

namespace jollyrow {

class GroupMenus final {
  public:
    struct Hooks {
        std::function<void(std::int64_t line)> toggle, select;
        std::function<void()> copy;
    };
    GroupMenus(GridContext& context, const ShownRows& rows, Hooks hooks)
        : context_(context), rows_(rows), hooks_(std::move(hooks)) {}

    /// The menu of a group's line.
    void open(std::int64_t line, const QPoint& global);
    /// What a heading's menu offers.
    void fill(QMenu& menu, const std::string& field);

  private:
    void fillGroupBy(QMenu& menu, const std::string& field);
    void fillSumUp(QMenu& menu, const std::string& field);
    void groupBy(const std::string& field, GroupBy by);
    void stopGrouping(const QString& heading, const std::function<bool(const GroupDesign&)>& which);
    void sumUp(const std::string& field, SummaryShow show);
    Type typeOf(const std::string& field) const;

    GridContext& context_;
    const ShownRows& rows_;
    Hooks hooks_;
};

}  // namespace jollyrow
