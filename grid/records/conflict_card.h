// SPDX-License-Identifier: MIT
#pragma once
// ConflictCard: what somebody else has written into the cells that were edited here: before, yours and theirs side by
// side, chosen field by field or for all.

#include <map>
#include <vector>

#include "core/session/session.h"
#include "grid/inside/grid_context.h"
#include "grid/records/floating_card.h"

class QGridLayout;
class QToolButton;

namespace jollyrow {

class ConflictCard final : public FloatingCard {
    Q_OBJECT
  public:
    /// Requires: the record has cells in conflict.
    ConflictCard(GridContext& context, SourceRow row, QWidget* parent);
    std::map<FieldIndex, SessionRecords::Keep> choices() const { return choices_; }
    /// For tests and keys: as if the button of a side had been pressed.
    void choose(FieldIndex field, SessionRecords::Keep keep);
    void chooseAll(SessionRecords::Keep keep);

  Q_SIGNALS:
    void decided();

  private:
    void addField(QGridLayout& table, int row, FieldIndex field, const CellEdit& edit);
    QToolButton* sideButton(const QString& words);
    void refresh();

    GridContext& context_;
    struct Field {
        FieldIndex index{};
        QToolButton *mine = nullptr, *theirs = nullptr;
    };
    std::vector<Field> fields_;
    std::map<FieldIndex, SessionRecords::Keep> choices_;
    QPushButton* save_ = nullptr;
};

}  // namespace jollyrow
