// SPDX-License-Identifier: MIT
#pragma once
// SummaryTablePopover: the groups and their figures as a grid of their own, plain, across or turned, and its way into a
// design of its own.

#include "core/design/summary_table.h"
#include "workbench/app/design_change.h"
#include "workbench/popovers/popover.h"

class QHBoxLayout;
class QLabel;

namespace jollyrow {

class Grid;

class SummaryTablePopover final : public Popover {
    Q_OBJECT
  public:
    SummaryTablePopover(QWidget* window, Grid& grid);
    /// The grid inside.
    Grid& table() { return *table_; }
    /// Writes the table into a database beside a design of it. The error says what and where.
    Result<void> writeTo(const QString& designPath) const;

  Q_SIGNALS:
    void changed(const jollyrow::DesignChange& change, const QString& label);
    /// The person wants it as a design of its own.
    void designWanted();

  private:
    void addLevels(QHBoxLayout& row);
    void make();

    Grid& grid_;
    Grid* table_;
    QLabel* problem_;
    QLabel* facts_;
    SummaryTable made_;
};

}  // namespace jollyrow
