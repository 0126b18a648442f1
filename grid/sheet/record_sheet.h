// SPDX-License-Identifier: MIT
#pragma once
// RecordSheet: a grid's current record as a form: its fields in the grid's order and under its tiers, with the same
// editors, formats and checks; what is changed is marked with its old value; to the next record and back.
//
//   auto* sheet = new jollyrow::RecordSheet(grid);   // put beside the grid in a layout
//
// Confined to the window's thread. The grid must outlive it.

#include <QWidget>

#include <memory>
#include <vector>

#include "core/columns/row_ref.h"

class QLabel;
class QPushButton;
class QScrollArea;
class QToolButton;

namespace jollyrow {

class Grid;
class FieldBox;
class Record;
class RecordEdit;

class RecordSheet final : public QWidget {
    Q_OBJECT
  public:
    explicit RecordSheet(Grid& grid, QWidget* parent = nullptr);
    ~RecordSheet() override;
    /// The box of a field; null when the grid does not show it. For applications that move the focus, and tests.
    QWidget* fieldBox(const QString& field) const;
    /// Puts the keys into the first field that can be edited.
    void focusFirst();
    /// What stands at the foot: "2 changed, 1 to put right".
    QString status() const;
    QSize sizeHint() const override { return {316, 600}; }

  Q_SIGNALS:
    /// Escape, with nothing to put back: the keys may go back to the grid.
    void leaveWanted();

  protected:
    void paintEvent(QPaintEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    void build();
    void refresh();
    void showName(const Record& record, const RecordEdit* edit);
    void showState(const RecordEdit* edit);
    void step(int lines);
    void moveFocus(FieldBox* from, int step);
    bool commit();
    QWidget* headOf();
    QWidget* footOf();

    Grid& grid_;
    QLabel *title_, *subtitle_, *place_, *status_;
    QToolButton *before_, *after_;
    QPushButton *revert_, *save_;
    QScrollArea* scroll_;
    std::vector<FieldBox*> boxes_;
    std::shared_ptr<const void> builtFor_;  ///< the plan
};

}  // namespace jollyrow
