// SPDX-License-Identifier: MIT
#pragma once
// Grid: shows the records of a design on a database, and lets a form user sort, arrange, select and edit them.
//
//   jollyrow::Grid grid;
//   grid.open("yard-jobs.jrow", "kelpie-quay.db");
//   grid.show();
//
// What can be done with it is grouped by subject: grid.records().insert(…), grid.filters().setEntry(…),
// grid.selection().current(); a column or a tier by grid.column("due_on").setWidth(83).
//
// Confined to the window's thread. Loading, sorting and saving run on threads of the grid's own; nothing here waits,
// except open() for the schema.

#include <QAbstractScrollArea>

#include <chrono>
#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <vector>

#include "core/base/result.h"
#include "core/design/design.h"
#include "core/design/finding.h"
#include "core/design/tier_tree.h"
#include "grid/api/grid_column.h"
#include "grid/api/grid_designer.h"
#include "grid/api/grid_extensions.h"
#include "grid/api/grid_filters.h"
#include "grid/api/grid_groups.h"
#include "grid/api/grid_places.h"
#include "grid/api/grid_records.h"
#include "grid/api/grid_selection.h"
#include "grid/api/record.h"

class QComboBox;

namespace jollyrow {

class Objects;
class PictureShelf;
struct Tokens;
class Session;
struct LoadProgress;
struct RecordSet;
struct Table;
struct Snapshot;

class Grid : public QAbstractScrollArea {
    Q_OBJECT
  public:
    explicit Grid(QWidget* parent = nullptr);
    ~Grid() override;

    // ---- Opening
    /// Opens a design file on its database, or on `databasePath` when one is given, and begins to load. On failure the
    /// grid shows what it showed before; the error says what, where and what to do.
    Result<void> open(const QString& designPath, const QString& databasePath = {});
    /// The same for a design in memory.
    Result<void> open(const Design& design, const QString& databasePath);
    /// The same on any source; `store` opens the way to write, when the first edit is saved. `path`: the file behind
    /// it, where there is one.
    Result<void> open(const Design& design, std::shared_ptr<const Source> source, StoreOpener store,
                      const QString& path = {});
    /// The same on a table in memory, e.g. a summary table; it cannot be edited.
    Result<void> open(const Design& design, std::shared_ptr<const Table> table);
    /// The same on an application's own objects (core/sources/objects/object_source.h), by the design that they get by
    /// themselves or one of their own, whose source is ignored. They must be there as long as the grid shows them.
    Result<void> open(Objects& objects);
    Result<void> open(Design design, Objects& objects);
    /// What is not as the design asks: in its file, or against the database.
    std::vector<Finding> findings() const;
    /// Reads all records again; unsaved edits, selection and place are kept.
    void reload();
    void cancelLoad();
    bool isLoading() const;
    /// Reading was stopped, or failed, after some records: what is counted and summed up is of these alone.
    bool isPartial() const;

    // ---- Design
    const Design& design() const;
    /// Replaces the design of the present source; what changed is recomputed, the rest stays.
    void setDesign(const Design& design);
    /// Sorts by these keys, most important first; empty for the bound order. Emits nothing.
    void setSort(const std::vector<SortDesign>& keys);
    /// Fills a combo box with ways to sort and keeps it and the grid together: choosing one sorts, and sorting
    /// otherwise chooses none. The box is not owned; it may go at any time. Choosing emits designEdited().
    struct SortChoice {
        QString title;
        std::vector<SortDesign> keys;  ///< empty: the bound order
    };
    void sortBy(QComboBox* box, const std::vector<SortChoice>& choices);
    /// Opens the bar that finds records by what they show (Ctrl+F), with this text when there is one.
    void openFind(const QString& text = {});
    /// Shows these records of the snapshot alone, as if they had been found, until the bar in the corner is closed or
    /// the records are read again; `what` stands in the bar.
    void showFound(std::shared_ptr<const RecordSet> records, const QString& what);
    /// The value of `:name` in rules; an empty Value restricts nothing.
    void setParameter(const QString& name, const Value& value);
    /// Changes the design in one go. Emits nothing.
    void changeDesign(const std::function<void(Design&)>& change);
    /// A column or header tier to be set: `grid.column("due_on").setFormat("EEE d MMM")`.
    GridColumn column(const QString& field);
    GridTier tier(const QString& name);

    // ---- What can be done, by subject
    GridRecords records() const;
    GridFilters filters() const;
    GridGroups groups() const;
    GridSelection selection() const;
    GridPlaces places() const;
    GridDesigner designer() const;
    GridExtensions extensions() const;

    // ---- Records
    /// Lines that can be scrolled to.
    std::int64_t lineCount() const;
    Record recordAt(std::int64_t line) const;
    /// Allows or forbids editing for all columns. Default: allowed where the source can be written.
    void setEditable(bool editable);
    bool isEditable() const;

    /// What the person at the grid is told just now about a cell, e.g. why an entry was refused; empty when nothing.
    QString message() const;

    /// For status lines, the workbench and tests.
    Session& session();
    PictureShelf& pictures();
    /// Its colours just now (grid/paint/looks.h).
    const Tokens& look() const;
    const std::shared_ptr<const Snapshot>& snapshot() const;

    QSize sizeHint() const override;

  Q_SIGNALS:
    /// A person double-clicked a record where that opens no editor: the cell cannot be edited, or is edited otherwise
    /// (a check box, GridDesign::doubleClickEdits); or pressed Enter on it.
    void recordActivated(const jollyrow::Record& record);
    /// A link or button of a composed face was pressed, by mouse, by the space bar or by assistive technology; `name`
    /// is the part's. The grid opens nothing by itself.
    void partPressed(const jollyrow::Record& record, const QString& field, const QString& name);
    void currentRecordChanged(const jollyrow::Record& record);
    void selectionChanged();
    /// Which records have come to those that are selected as a whole, and which have left; at most
    /// GridSelection::kMostTold of each. Not sent for blocks of cells.
    void selectedRecordsChanged(const std::vector<jollyrow::Record>& came, const std::vector<jollyrow::Record>& went);
    /// What the selected cells come to, in words for a status line, a moment after they were selected; empty when less
    /// than two are.
    void selectionFigured(const QString& words);
    /// A person changed the design on the grid; `label` names the step for an undo list, e.g. "Widen Due".
    void designEdited(const QString& label);
    void headingClicked(const QString& field, Qt::KeyboardModifiers modifiers);
    /// A header tier was clicked; its columns are selected.
    void tierClicked(const QString& name);
    /// A heading is being dragged above the grid's top edge, where something else may take it.
    void headingDragged(const QString& field, const QPoint& globalPosition);
    /// It was let go there; the grid itself does nothing with it.
    void headingDropped(const QString& field, const QPoint& globalPosition);
    /// A step that undo() can take back was made, e.g. "Edit Hours" or "Delete 3 records"; not by undo() and redo().
    void stepMade(const QString& label);
    /// A typed value was taken into a cell and is on its way to the database.
    void cellEdited(const jollyrow::Record& record, const QString& field, const jollyrow::Value& before,
                    const jollyrow::Value& after);
    /// Several cells are about to be edited in one go, and have been: one step for an undo list.
    void editsBegun(const QString& label);
    void editsEnded();
    /// A figure was clicked, or asked about by Ctrl+I: of the plan's summary with this index, of a node of the
    /// snapshot's groups or, for their number, of all records shown; past that of all records, then of the selected
    /// ones. FigureCard says how it was made. `where` is in the viewport.
    void figureClicked(int summary, quint32 node, const QRect& where);
    /// A record was saved, inserted or deleted, or not and why; invalid for one that is deleted.
    void recordAnswered(const jollyrow::Record& record, bool saved, const QString& message);
    /// An earlier session ended before these were saved: takeUpDrafts() or dropDrafts().
    void draftsLeft(int records);
    /// Others have saved so many records, and what they hold now is shown (GridDesign::followsOthers).
    void changedElsewhere(int records);
    /// The database answered: saved, or refused with a message.
    void editAnswered(bool saved, const QString& message);
    void snapshotChanged();
    /// Tables were read that somebody asked for before they were known (Session::schemaOf).
    void schemasRead();
    /// The columns shown, or how they are shown, are others: after a change of the design or the table.
    void columnsChanged();
    /// Pictures that were painted before they had come are here.
    void picturesArrived();
    void loadProgressed(const jollyrow::LoadProgress& progress);
    void loadEnded(const QString& error);
    void failed(const QString& message);

  protected:
    bool viewportEvent(QEvent* event) override;
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void scrollContentsBy(int dx, int dy) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void focusInEvent(QFocusEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;
    void changeEvent(QEvent* event) override;
    void contextMenuEvent(QContextMenuEvent* event) override;
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dragMoveEvent(QDragMoveEvent* event) override;
    void dropEvent(QDropEvent* event) override;

  private:
    std::unique_ptr<class GridPrivate> d;
    friend class GridPrivate;
    friend class GridAccessible;
    friend class FieldBox;
};

}  // namespace jollyrow
