// SPDX-License-Identifier: MIT
#pragma once
// GridFittings: the settings of the whole grid.

#include "core/design/grid_switches.h"
#include "workbench/fittings/fitting_section.h"
#include "workbench/fittings/fittings.h"

class QBoxLayout;
class QCheckBox;

class QComboBox;
class QPushButton;

namespace jollyrow {

class PickBox;
class SegmentedSwitch;

class GridFittings final : public QWidget {
    Q_OBJECT
  public:
    explicit GridFittings(QWidget* parent);
    void setContent(const FittingsContent& content);

  Q_SIGNALS:
    void changed(const jollyrow::Design& next, const QString& label, jollyrow::Joining joining);
    void stylesWanted();
    void bannersWanted();
    void checksWanted();
    void triggerWanted();
    void looksWanted();

  private:
    void fillConflicts(const TableSchema& schema);
    void addConflicts(Section* section);
    void fillNotes();
    void addTitle(QVBoxLayout& layout);
    void addRows(QVBoxLayout& layout);
    void addPins(QVBoxLayout& layout);
    void addStyles(QVBoxLayout& layout);
    void addEntering(QVBoxLayout& layout);
    void addLinks(QVBoxLayout& layout);
    void addTheme(QVBoxLayout& layout);
    void takeLocale(const QString& tag);
    void addSwitches(GridSwitchPlace place, QWidget* parent, QBoxLayout& layout);
    template <class Change>
    void change(const QString& label, const Change& change);
    /// What its clocks show now, or that there is no such zone.
    void noteZone(const QString& name);
    void takeZone(const QString& name);
    Design design_;
    bool filling_ = false;
    QLineEdit* title_;
    QLineEdit* locale_;
    QLabel* localeNote_;
    QLineEdit* linkSchemes_ = nullptr;
    QLabel* linksNote_ = nullptr;
    QLineEdit* zone_;
    QLabel* zoneNote_;
    SegmentedSwitch* density_;
    QSpinBox* rowHeight_;
    SegmentedSwitch* lineHeight_;
    QSpinBox* mostLines_;
    QSpinBox* pinned_;
    QSpinBox* pinnedRight_;
    QLabel* pinnedRecords_;
    SegmentedSwitch* theme_;
    QLabel* stylesNote_;
    SegmentedSwitch* saving_ = nullptr;
    QPushButton* trigger_ = nullptr;
    QComboBox *version_ = nullptr, *changedBy_ = nullptr;
    SegmentedSwitch* entryLine_ = nullptr;
    PickBox* selection_ = nullptr;
    QLabel* checksNote_ = nullptr;
    std::vector<std::pair<QCheckBox*, const GridSwitch*>> switches_;
};

}  // namespace jollyrow
