// SPDX-License-Identifier: MIT
#pragma once
// Fittings: the settings of what is selected: one column, several at once, a header tier, or the whole grid, as few
// legible sections. Sends intents; shows what it is given.

#include <QWidget>

#include <memory>
#include <optional>
#include <vector>

#include "core/columns/extremes.h"
#include "core/columns/schema.h"
#include "core/design/design.h"
#include "core/rows/snapshot.h"
#include "workbench/app/document.h"

class QLabel;
class QStackedWidget;

namespace jollyrow {

class PictureShelf;

class ColumnFittings;
class TierFittings;
class GridFittings;

struct FittingsContent {
    Design design;
    TableSchema schema;
    std::vector<QString> fields;  ///< the selected columns; none and no tier: the whole grid
    std::optional<QString> tier;
    int widthPx = 0;  ///< of the first selected column, just now
    std::shared_ptr<const Snapshot> snapshot;
    std::optional<SourceRow> current;
    PictureShelf* pictures = nullptr;  ///< of the grid
    Extremes extremes;                 ///< of the only selected column, when known
};

class Fittings final : public QWidget {
    Q_OBJECT
  public:
    explicit Fittings(QWidget* parent = nullptr);
    void setContent(const FittingsContent& content);

  Q_SIGNALS:
    /// A setting was changed; `label` names the step.
    void changed(const jollyrow::Design& next, const QString& label, jollyrow::Joining joining);
    /// The rule of a computed column is to be changed.
    void ruleWanted(const QString& field);
    /// Styles of the whole grid are to be set.
    void stylesWanted();
    /// So are its banner rows.
    void bannersWanted();
    /// The checks of what is entered are to be edited.
    void checksWanted();
    void triggerWanted();
    void looksWanted();
    /// The face of a column is to be composed.
    void composeWanted(const QString& field);

  private:
    QLabel* title_;
    QLabel* subtitle_;
    QStackedWidget* pages_;
    ColumnFittings* column_;
    TierFittings* tier_;
    GridFittings* grid_;
};

}  // namespace jollyrow
