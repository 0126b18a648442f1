// SPDX-License-Identifier: MIT
#pragma once
// ColumnFittings: the settings of one column or of several at once: what they have in common is shown, what differs is
// shown as mixed, and a change is made to all of them.

#include "workbench/fittings/fitting_section.h"
#include "workbench/fittings/fittings.h"

class QCheckBox;
class QComboBox;
class QDoubleSpinBox;

namespace jollyrow {

class FormatFittings;
class EntryFittings;
class FaceFittings;
class ReadAsFittings;
class SegmentedSwitch;

class ColumnFittings final : public QWidget {
    Q_OBJECT
  public:
    explicit ColumnFittings(QWidget* parent);
    void setContent(const FittingsContent& content);

  Q_SIGNALS:
    void changed(const jollyrow::Design& next, const QString& label, jollyrow::Joining joining);
    /// The rule of a computed column is to be changed.
    void ruleWanted(const QString& field);
    /// The face of a column is to be composed.
    void composeWanted(const QString& field);

  private:
    Section* makeHeading();
    Section* makeRule();
    Section* makeWidth();
    Section* makeAlignment();
    Section* makeOrder();
    void connectChanges();
    Section* makePlace();
    Section* makeForm();
    /// Changes all selected columns; `label` has a place for their name.
    template <class Change>
    void change(const QString& label, const Change& change, Joining joining = Joining::OwnStep);
    /// Changes the design by a function of it and one field, for each of them.
    template <class Change>
    void changeTree(const QString& label, const Change& change);
    QString nameOfThem(Joining joining) const;
    std::vector<const ColumnDesign*> columns() const;
    void fillPicks();
    void fillFacts();

    FittingsContent content_;
    bool filling_ = false;
    QLineEdit* heading_;
    QComboBox* tier_;
    FormatFittings* format_;
    FaceFittings* face_;
    ReadAsFittings* readAs_;
    EntryFittings* entry_;
    SegmentedSwitch* alignment_;
    QCheckBox* wrap_;
    QCheckBox* merge_;
    struct WidthControls {
        SegmentedSwitch* mode;
        QSpinBox* pixels;
        QDoubleSpinBox* weight;
        QLabel* note;
        QSpinBox* minimum;
        QSpinBox* maximum;
    } width_;
    QComboBox* under_;
    QSpinBox* span_;
    QCheckBox* shown_;
    QCheckBox* readOnly_;
    QCheckBox* hiddenFromUsers_;
    QComboBox* label_;
    QLabel* labelWords_;
    QLineEdit* hint_;
    QLineEdit* toolTip_;
    QLabel* facts_;
    struct Sections {
        Section* heading;
        Section* rule;
        Section* order;
        Section* place;
        Section* facts;
    } sections_;
    QComboBox* sortBy_;
    QLabel* rule_;
};

}  // namespace jollyrow
