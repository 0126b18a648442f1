// SPDX-License-Identifier: MIT
#pragma once
// TierFittings: the settings of a header tier.

#include "workbench/fittings/fitting_section.h"
#include "workbench/fittings/fittings.h"

class QCheckBox;
class QComboBox;

namespace jollyrow {

class SegmentedSwitch;

class TierFittings final : public QWidget {
    Q_OBJECT
  public:
    explicit TierFittings(QWidget* parent);
    void setContent(const FittingsContent& content);

  Q_SIGNALS:
    void changed(const jollyrow::Design& next, const QString& label, jollyrow::Joining joining);

  private:
    Section* makeHeading();
    Section* makeLook();
    Section* makeFold();
    void connectEntries();
    void connectLook();
    template <class Change>
    void change(const QString& label, const Change& change, Joining joining = Joining::OwnStep);
    Design design_;
    std::string name_;
    bool filling_ = false;
    QLineEdit* heading_;
    QComboBox* parent_;
    SegmentedSwitch* look_;
    SegmentedSwitch* alignment_;
    QLineEdit* colour_;
    QLabel* colourNote_;
    QCheckBox* folded_;
    QComboBox* lead_;
    QLineEdit* toolTip_;
};

}  // namespace jollyrow
