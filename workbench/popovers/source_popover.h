// SPDX-License-Identifier: MIT
#pragma once
// SourcePopover: what the grid is bound to, and what else the database has: tables, views, or a SELECT of one's own.

#include <vector>

#include "core/design/design.h"
#include "core/sources/source.h"
#include "workbench/popovers/popover.h"

class QLineEdit;
class QLabel;

namespace jollyrow {

class SourcePopover final : public Popover {
    Q_OBJECT
  public:
    SourcePopover(QWidget* window, const QString& databasePath, const SourceDesign& bound,
                  const std::vector<TableSummary>& tables);
    void showProblem(const QString& message);

  Q_SIGNALS:
    void tableChosen(const QString& table);
    void queryChosen(const QString& query);
    void reloadChosen();

  private:
    void addTables(const SourceDesign& bound, const std::vector<TableSummary>& tables);
    void addQuery(const SourceDesign& bound);

    QLineEdit* query_;
    QLabel* problem_;
};

}  // namespace jollyrow
