// SPDX-License-Identifier: MIT
#pragma once
// Fittings: the settings of the selected column, or of the whole grid when none is, as few legible sections. Sends
// intents; shows what it is given.

#include <QWidget>

#include <optional>

#include "core/columns/schema.h"
#include "core/design/design.h"
#include "workbench/document.h"

class QComboBox;
class QLabel;
class QLineEdit;
class QSpinBox;
class QDoubleSpinBox;
class QCheckBox;
class QStackedWidget;

namespace jollyrow {

class SegmentedSwitch;

class Fittings final : public QWidget {
    Q_OBJECT
  public:
    explicit Fittings(QWidget* parent = nullptr);
    /// `field` is the selected column, nullopt for the whole grid. `widthPx` is its width just now; `sample` a value as
    /// shown.
    void setContent(const Design& design, const TableSchema& schema, const std::optional<QString>& field, int widthPx,
                    const QString& sample);

  Q_SIGNALS:
    /// A setting was changed; `label` names the step.
    void changed(const jollyrow::Design& next, const QString& label, jollyrow::Joining joining);

  private:
    QWidget* makeColumnPage();
    QWidget* makeGridPage();
    void fillColumn();
    void fillGrid();
    template <class Change>
    void changeColumn(const QString& label, Change&& change, Joining joining = Joining::OwnStep);
    template <class Change>
    void changeGrid(const QString& label, Change&& change);

    Design design_;
    TableSchema schema_;
    std::optional<QString> field_;
    int widthPx_ = 0;
    QString sample_;
    bool filling_ = false;

    QLabel* title_;
    QLabel* subtitle_;
    QStackedWidget* pages_;
    QLineEdit* heading_ = nullptr;
    QLabel* sampleLabel_ = nullptr;
    QCheckBox* shown_ = nullptr;
    QCheckBox* readOnly_ = nullptr;
    SegmentedSwitch* alignment_ = nullptr;
    SegmentedSwitch* widthMode_ = nullptr;
    QSpinBox* pixels_ = nullptr;
    QDoubleSpinBox* weight_ = nullptr;
    QSpinBox* minimum_ = nullptr;
    QSpinBox* maximum_ = nullptr;
    QLabel* fitNote_ = nullptr;
    QLabel* facts_ = nullptr;
    QLineEdit* designTitle_ = nullptr;
    QSpinBox* pinned_ = nullptr;
    QSpinBox* rowHeight_ = nullptr;
    QCheckBox* stripes_ = nullptr;
    QCheckBox* lines_ = nullptr;
};

}  // namespace jollyrow
