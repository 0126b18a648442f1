// SPDX-License-Identifier: MIT
#pragma once
// SourcePopover: what the grid is bound to, and what else the database has: all its tables and views with a search,
// what each of them is, or a SELECT of one's own.

#include <vector>

#include "core/design/design.h"
#include "core/sources/source.h"
#include "workbench/popovers/popover.h"

class QLabel;
class QLineEdit;
class QPushButton;
class QVBoxLayout;

namespace jollyrow {

class TableLook;

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

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    QWidget* makeList(const std::vector<TableSummary>& tables);
    QPushButton* makeRow(const TableSummary& table);
    void addQuery();
    void search(const QString& words);
    void look(const QString& table);
    void step(int by);

    const SourceDesign bound_;
    QLineEdit* search_;
    QLabel* none_ = nullptr;
    std::vector<QPushButton*> rows_;  ///< by table, in the order of the database
    TableLook* look_;
    QPushButton* bind_;
    QLineEdit* query_;
    QLabel* problem_;
    QString looked_;
};

}  // namespace jollyrow
