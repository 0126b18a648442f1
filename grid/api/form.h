// SPDX-License-Identifier: MIT
#pragma once
// Form: a ready widget around a grid: its title and how many records it shows, the entries of its parameters, what it
// filters in words, finding, the progress of reading, what the selected cells come to. Each part is there when the
// design or the records have something for it; whoever wants them elsewhere places the parts (ParameterBar,
// FilterWords, LoadLine) around a Grid of their own.
//
//   jollyrow::Form form;
//   form.open("jobs.jrow", "yard.db");
//   form.show();
//
// Confined to the window's thread.

#include <QWidget>

#include "core/base/result.h"

class QLabel;
class QPushButton;

namespace jollyrow {

struct Design;
class Grid;

class Form final : public QWidget {
    Q_OBJECT
  public:
    explicit Form(QWidget* parent = nullptr);
    /// All else: the grid is the form's own, and as good as any.
    Grid& grid() { return *grid_; }
    const Grid& grid() const { return *grid_; }
    /// As Grid::open().
    Result<void> open(const QString& designPath, const QString& databasePath = {});
    Result<void> open(const Design& design, const QString& databasePath);
    /// The line with title, count and Find. Default: shown.
    void setHeadShown(bool shown);

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    void refresh();

    QWidget* head_;
    QLabel* title_;
    QLabel* count_;
    QPushButton* find_;
    QLabel* foot_;
    Grid* grid_;
};

}  // namespace jollyrow
