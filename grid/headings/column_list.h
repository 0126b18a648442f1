// SPDX-License-Identifier: MIT
#pragma once
// ColumnList: the list in which form users show, hide, order and find columns. A card over the grid; Escape or a click
// elsewhere closes it. Columns hidden from users are not in it.

#include <QFrame>
#include <QIcon>

#include "core/columns/schema.h"
#include "core/design/design.h"

class QLabel;
class QLineEdit;
class QListWidget;
class QListWidgetItem;

namespace jollyrow {

class ColumnList final : public QFrame {
    Q_OBJECT
  public:
    ColumnList(const Design& design, const TableSchema& schema, bool designing, QWidget* parent);
    void setDesign(const Design& design);
    /// As a pop-up at the right edge of `over`, `belowY` pixels below its top.
    void openOver(QWidget* over, int belowY);

  Q_SIGNALS:
    void changed(const jollyrow::Design& design, const QString& label);
    /// A column was chosen to be looked at.
    void found(const QString& field);

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    void makeParts();
    static void flip(QListWidgetItem* item);
    bool pressed(const QPoint& at);
    bool key(const QKeyEvent& key, bool inEntry);
    void fill();
    void toggle(QListWidgetItem* item);
    void move(int step);
    void dropped();
    void showAll(bool shown);
    QString fieldOf(const QListWidgetItem* item) const;

    Design design_;
    TableSchema schema_;
    bool designing_;
    bool filling_ = false;
    QIcon marks_[2];  ///< hidden, shown
    QLineEdit* entry_;
    QListWidget* list_;
    QLabel* count_;
};

}  // namespace jollyrow
