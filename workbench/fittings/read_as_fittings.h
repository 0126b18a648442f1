// SPDX-License-Identifier: MIT
#pragma once
// ReadAsFittings: how the values of one column stand in its table, where its declaration does not say it: a pattern of
// dates, a count since 1970, a number or yes and no in texts. Says how many values do not fit.

#include "workbench/fittings/fitting_section.h"
#include "workbench/fittings/fittings.h"

class QComboBox;

namespace jollyrow {

class ReadAsFittings final : public QWidget {
    Q_OBJECT
  public:
    explicit ReadAsFittings(QWidget* parent);
    /// Shows itself for one column of the database only.
    void setContent(const FittingsContent& content);

  Q_SIGNALS:
    void changed(const jollyrow::Design& next, const QString& label, jollyrow::Joining joining);

  private:
    void chooseForm(int index);
    void send();
    void showParts();
    void showFit(const FieldSchema& field);

    FittingsContent content_;
    QString field_;
    ReadAs how_;
    bool filling_ = false;
    QComboBox* forms_;
    QWidget* patternRow_;
    QLineEdit* pattern_;
    QComboBox* sign_;
    QWidget* wordsRow_;
    QLineEdit* yes_;
    QLineEdit* no_;
    QLabel* problem_;
    QLabel* fit_;
};

}  // namespace jollyrow
