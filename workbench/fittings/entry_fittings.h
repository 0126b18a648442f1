// SPDX-License-Identifier: MIT
#pragma once
// EntryFittings: what one column's values are entered with, and what a text entered there must look like. Says how many
// of the records at hand do not match.

#include "workbench/fittings/fitting_section.h"
#include "workbench/fittings/fittings.h"

class QCheckBox;
class QComboBox;

namespace jollyrow {

class EntryFittings final : public QWidget {
    Q_OBJECT
  public:
    explicit EntryFittings(QWidget* parent);
    /// Shows itself for one column that can be edited.
    void setContent(const FittingsContent& content);

  Q_SIGNALS:
    void changed(const jollyrow::Design& next, const QString& label, jollyrow::Joining joining);

  private:
    void send(const QString& label, const EntryDesign& entry, Joining joining = Joining::OwnStep);
    void showMatches(const FieldSchema& field);
    const ColumnDesign* column() const;

    FittingsContent content_;
    QString field_;
    bool filling_ = false;
    QComboBox* kinds_;
    QSpinBox* most_;
    QLabel* mostWords_;
    QLineEdit* pattern_;
    QCheckBox* adds_;
    QLabel* problem_;
    QLabel* matches_;
};

}  // namespace jollyrow
