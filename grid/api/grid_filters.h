// SPDX-License-Identifier: MIT
#pragma once
// GridFilters: which records a grid shows: `grid.filters().setEntry("vessel", "Otter*")`. Nothing here emits
// designEdited(). A handle: a value, without a state of its own. Requires: the grid outlives it. Window's thread.

#include <QString>

#include <cstddef>
#include <vector>

#include "core/base/result.h"
#include "core/design/design.h"

class QComboBox;
class QLineEdit;

namespace jollyrow {

class GridPrivate;

class GridFilters final {
  public:
    explicit GridFilters(GridPrivate& grid) : d_(&grid) {}

    /// Shows only records that meet a condition of the rule language, besides what else is filtered; "" for none.
    /// `name` tells it from other conditions set so: a combo box and an entry may each set their own. Fails, changing
    /// nothing, when the condition makes no sense.
    Result<void> set(const QString& name, const QString& rule);
    /// What would be typed into the filter row of a column: `> 4`, `Otter*`; "" for none.
    Result<void> setEntry(const QString& field, const QString& entry);
    /// Keeps a control's choice as the filter of a column: `grid.filters().follow(box, "status")`. The first entry of a
    /// combo box, and an empty line edit, filter nothing. The control is not owned; it may go at any time.
    void follow(QComboBox* box, const QString& field);
    void follow(QLineEdit* entry, const QString& field);
    void clear();
    /// What was filtered by and taken away, the latest first; kept over sessions, by table.
    const std::vector<std::vector<FilterDesign>>& earlier() const;
    /// Filters by one of them again (Ctrl+Shift+E: the latest); false when there is none. Emits designEdited().
    bool bringBack(std::size_t index = 0);
    /// Something was taken away since the grid was opened.
    bool hasTakenAway() const;
    /// A person has changed what is filtered by other means than the grid's own: what is gone is noted as earlier.
    void noteEdited();
    /// Puts the keys into the filter row at a column, showing the row when it is hidden.
    bool focus(const QString& field);
    /// Opens the list of a column's values to pick from.
    void openPickList(const QString& field);
    /// True while designEdited() comes from typing in the filter row, so that undo takes it as one step.
    bool isTyping() const;

  private:
    GridPrivate* d_;
};

}  // namespace jollyrow
