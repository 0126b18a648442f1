// SPDX-License-Identifier: MIT
#pragma once
// GridSelection: where a person stands in a grid, what is selected, and the way to other records:
// `grid.selection().current()`. A handle: a value, without a state of its own. Requires: the grid outlives it. Window's
// thread.

#include <QString>

#include <cstddef>
#include <cstdint>
#include <optional>
#include <vector>

#include "core/design/summary_table.h"
#include "grid/api/record.h"
#include "grid/select/selection.h"

namespace jollyrow {

class GridPrivate;

class GridSelection final {
  public:
    explicit GridSelection(GridPrivate& grid) : d_(&grid) {}

    /// What one selectedRecordsChanged() tells of at most.
    static constexpr std::size_t kMostTold = 100'000;

    /// Invalid when there is no current cell.
    Record current() const;
    std::optional<CellPlace> currentCell() const;
    void setCurrentCell(std::int64_t line, int column);
    /// At most `most` of the selected records, in bound order.
    std::vector<Record> records(std::size_t most = 100'000) const;
    std::int64_t count() const;
    /// All of them, as rows of the snapshot.
    std::vector<SourceRow> rows() const;
    /// What selectionFigured() has told last.
    QString figures() const;
    /// Takes the selected cells or records to the clipboard: as text, CSV and HTML.
    void copy(bool withHeadings = false);
    /// The selected records, in the order shown, as columns of a table of its own with a design to show it: one line
    /// for each column of the grid. `other.open(made->design, made->table)`. Fails for none and for more than
    /// kMostTableColumns - 1.
    Result<SummaryTable> sideBySide() const;
    /// The same on a card over the grid (Ctrl+B). False when there are fewer than two, or too many.
    bool openSideBySide();
    /// What can be selected (GridDesign::selection); another mode selects nothing at first.
    void setMode(SelectionMode mode);
    SelectionMode mode() const;

    /// To the record before or after on the way the person has come (Alt+Left, Alt+Right); false at its ends.
    bool goBack();
    bool goForward();
    /// Opens the entry that takes a line number, a key, or how a value of the current column begins (Ctrl+J;
    /// Ctrl+Shift+J at the last).
    void openGoTo();
    /// Makes a record current, opening the groups around it; false when it is not shown.
    bool show(const Record& record);
    /// Scrolls so that the line can be seen.
    void showLine(std::int64_t line);
    /// Scrolls sideways so that the column can be seen.
    void showColumn(const QString& field);

  private:
    GridPrivate* d_;
};

}  // namespace jollyrow
