// SPDX-License-Identifier: MIT
#pragma once
// ChangeList: what is not saved in a grid, record by record: what is to be put right first, then drafts, then what is
// being saved. A record's name goes to it; each change can be put back, all of them, or all be saved.
//
//   auto* list = new jollyrow::ChangeList(grid);   // put beside the grid in a layout
//
// Confined to the window's thread. The grid must outlive it.

#include <QWidget>

#include <vector>

#include "grid/api/record_changes.h"

class QGridLayout;
class QLabel;
class QPushButton;
class QScrollArea;
class QVBoxLayout;

namespace jollyrow {

class Grid;

class ChangeList final : public QWidget {
    Q_OBJECT
  public:
    static constexpr std::size_t kMostShown = 200;  ///< records; more are counted
    explicit ChangeList(Grid& grid, QWidget* parent = nullptr);
    /// "7 changes in 5 records".
    QString heading() const;
    QSize sizeHint() const override { return {316, 600}; }

  Q_SIGNALS:
    void closeWanted();

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    void refresh();
    void addSection(QVBoxLayout& into, const QString& heading, const std::vector<const RecordChanges*>& records);
    QWidget* recordOf(const RecordChanges& changes);
    void addTitle(QGridLayout& layout, const RecordChanges& changes);
    void addCell(QGridLayout& layout, int row, const RecordChanges& changes, const RecordChanges::Cell& cell);
    QPushButton* link(const QString& words, QWidget* parent);

    Grid& grid_;
    QLabel *heading_, *note_, *status_;
    QPushButton *close_, *backAll_, *saveAll_;
    QScrollArea* scroll_;
    bool pending_ = false;  ///< a refresh is on its way
};

}  // namespace jollyrow
