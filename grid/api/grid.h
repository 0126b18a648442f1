// SPDX-License-Identifier: MIT
#pragma once
// Grid: shows the records of a design on a database, and lets a form user sort, arrange, select and edit them.
//
//   jollyrow::Grid grid;
//   grid.open("yard-jobs.jrow", "kelpie-quay.db");
//   grid.show();
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
#include "grid/api/extending.h"
#include "grid/api/grid_column.h"
#include "grid/api/record.h"
#include "grid/api/record_changes.h"
#include "grid/editors/editor.h"
#include "grid/select/selection.h"

class QComboBox;
class QLineEdit;

namespace jollyrow {

class Objects;
class PictureShelf;
struct Tokens;
class Session;
struct LoadProgress;
struct Table;
struct Snapshot;
struct PlannedColumn;

/// A group as its line shows it.
struct GroupLine {
    int level = 0;  ///< 0 = the outermost
    QString caption;
    Value key;  ///< Empty for records without a value, and for those on which the grouping fails
    std::int64_t records = 0;
    bool isOpen = true;
};

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

    // ---- Design
    const Design& design() const;
    /// Replaces the design of the present source; what changed is recomputed, the rest stays.
    void setDesign(const Design& design);
    /// Sorts by these keys, most important first; empty for the bound order. Emits nothing.
    void setSort(const std::vector<SortDesign>& keys);
    /// Shows only records that meet a condition of the rule language, besides what else is filtered; "" for none.
    /// `name` tells it from other conditions set so: a combo box and an entry may each set their own. Fails, changing
    /// nothing, when the condition makes no sense. Emits nothing.
    Result<void> setFilter(const QString& name, const QString& rule);
    /// What would be typed into the filter row of a column: `> 4`, `Otter*`; "" for none.
    Result<void> setFilterEntry(const QString& field, const QString& entry);
    /// Keeps a control's choice as the filter of a column: `grid.filterBy(box, "status")`. The first entry of a combo
    /// box, and an empty line edit, filter nothing. The control is not owned; it may go at any time.
    void filterBy(QComboBox* box, const QString& field);
    void filterBy(QLineEdit* entry, const QString& field);
    void clearFilters();
    /// Groups by these levels, outermost first; empty for none. Emits nothing.
    void setGroups(const std::vector<GroupDesign>& groups);
    /// One more level: `grid.groupBy("due_on", GroupBy::Month)`.
    void groupBy(const QString& field, GroupBy by = GroupBy::EachValue);
    void setSummaries(const std::vector<SummaryDesign>& summaries);
    void openAllGroups();
    void closeAllGroups();
    /// What stands on a group's line; nullopt for other lines.
    std::optional<GroupLine> groupAt(std::int64_t line) const;
    void setGroupOpen(std::int64_t line, bool open);
    /// A summary's figure of the group on a line, or of all records shown; Empty when there is none or it failed. Sums
    /// past 64 bits are WideDecimal.
    Value figure(const QString& summary, std::optional<std::int64_t> line = std::nullopt) const;
    /// Puts the keys into the filter row at a column, showing the row when it is hidden.
    bool focusFilter(const QString& field);
    /// Opens the list of a column's values to pick from.
    void openPickList(const QString& field);
    /// Opens the bar that finds records by what they show (Ctrl+F), with this text when there is one.
    void openFind(const QString& text = {});
    /// True while designEdited() comes from typing in the filter row, so that undo takes it as one step.
    bool isTypingFilter() const;
    /// The value of `:name` in rules; an empty Value restricts nothing.
    void setParameter(const QString& name, const Value& value);
    /// Changes the design in one go. Emits nothing.
    void changeDesign(const std::function<void(Design&)>& change);
    /// A column or header tier to be set: `grid.column("due_on").setFormat("EEE d MMM")`.
    GridColumn column(const QString& field);
    GridTier tier(const QString& name);
    /// Fits every shown column to heading and all of its values, over the next turns of the event loop.
    void fitAll();
    /// A new heading over columns, to be named at once by the person at the grid.
    void makeTier(const std::vector<std::string>& fields);
    /// While designing, dragging a heading also makes, joins and leaves tiers, and headings can be renamed in place.
    /// Default: off; form users then move columns within their tier.
    void setDesigning(bool designing);
    bool isDesigning() const;
    /// The columns and the tier whose settings are being worked on are tinted.
    void setDesignSelection(const std::vector<QString>& fields, const std::optional<QString>& tier = std::nullopt);
    std::vector<QString> designSelection() const;
    /// Columns that a click on their tier has selected.
    std::vector<std::string> selectedColumns() const;
    /// Opens the list in which columns are shown, hidden, ordered and found.
    void openColumnList();

    // ---- Records
    /// Lines that can be scrolled to.
    std::int64_t lineCount() const;
    Record recordAt(std::int64_t line) const;
    /// Invalid when there is no current cell.
    Record currentRecord() const;
    std::optional<CellPlace> currentCell() const;
    void setCurrentCell(std::int64_t line, int column);
    /// At most `most` of the selected records, in bound order.
    std::vector<Record> selectedRecords(std::size_t most = 100'000) const;
    std::int64_t selectedCount() const;
    /// What selectionFigured() has told last.
    QString selectionFigures() const;
    /// Takes the selected cells or records to the clipboard: as text, CSV and HTML.
    void copySelection(bool withHeadings = false);
    void setSelectionMode(SelectionMode mode);
    SelectionMode selectionMode() const;
    /// To the record before or after on the way the person has come (Alt+Left, Alt+Right); false at its ends.
    bool goBack();
    bool goForward();
    /// Opens the entry that takes a line number (Ctrl+J).
    void openGoTo();
    /// Makes a record current, opening the groups around it; false when it is not shown.
    bool showRecord(const Record& record);
    /// Scrolls so that the line can be seen.
    void showLine(std::int64_t line);
    /// Scrolls sideways so that the column can be seen.
    void showColumn(const QString& field);

    // ---- Editing
    /// Allows or forbids editing for all columns. Default: allowed where the source can be written.
    void setEditable(bool editable);
    bool isEditable() const;
    /// Begins a new record in the grid, as Insert does: it is shown, and its first cell edited.
    bool beginRecord();
    /// Opens the editor of the current cell; false when it cannot be edited.
    bool editCurrentCell();
    /// Edits not in the database yet: being saved or refused.
    std::size_t unsavedEdits() const;
    /// Writes a value to the record as if it had been typed, also when the record was kept over reloads. False, and
    /// nothing is written, when the record is gone, has no such field, or the value is not of the field's type (a
    /// Timestamp is no Instant: TimeZone converts). Requires: the record is of this grid.
    bool setValue(const Record& record, const QString& field, const Value& value);
    /// A new record with these values, by field name; a draft until it is left or saved. Fails in words while records
    /// are still being read, and where the source takes none.
    Result<Record> insertRecord(const std::map<QString, Value>& values = {});
    /// One like it, but for keys and unique fields.
    Result<Record> duplicateRecord(const Record& record);
    /// Deletes them without asking; false when none of them is there any more.
    bool deleteRecords(const std::vector<Record>& records);
    /// Hands what is unsaved to the database in one transaction: of one record, or of all. Returns how many records are
    /// on their way; those that break a check, or are in conflict, are not.
    int save(const Record& record);
    int saveAll();
    /// What is unsaved in several grids on one database, in one transaction: an order and its lines. Fails when
    /// something is to be put right first.
    static Result<int> saveTogether(const std::vector<Grid*>& grids);
    /// Takes back what is not saved.
    void revert(const Record& record);
    void revertAll();
    /// What is not saved, record by record, in words and values.
    std::vector<RecordChanges> changes() const;
    /// Takes the last change of records back, also when it is saved; false when there is none, or it has been changed
    /// elsewhere since.
    bool undo();
    bool redo();
    bool canUndo() const;
    bool canRedo() const;
    /// Where drafts are kept from crashes; "" = nowhere. Default: $XDG_STATE_HOME/jollyrow. Call before open().
    void setDraftFolder(const QString& folder);
    /// What an earlier session has left unsaved (draftsLeft) is put into the records, or dropped. Returns how many
    /// records have drafts now.
    int takeUpDrafts();
    void dropDrafts();
    // ---- Functions of the application (grid/api/extending.h)
    /// The editor of a column, by a function of the application; an empty one: the ready one by its type.
    void setEditor(const QString& field, EditorFactory factory);
    enum class CheckStrength { Error, Warning };
    /// A check of each record that is edited, besides the design's: `check` says what is wrong, empty when nothing. At
    /// `field`; empty: at the record. Takes the place of one of the same name; without a function there is none.
    void setCheck(const QString& name, const QString& field, std::function<QString(const EditedRecord&)> check,
                  CheckStrength strength = CheckStrength::Error);
    /// One that answers later: until then the record waits, marked, and is not saved. Past `limit` it counts as wrong,
    /// and is asked again when the record is edited again.
    void setCheckLater(const QString& name, const QString& field,
                       std::function<void(const EditedRecord&, const CheckAnswer&)> ask,
                       std::chrono::milliseconds limit = std::chrono::seconds(10));
    /// Decides what becomes of each save, before the database is asked or in its place; an empty one: the database.
    void setSaver(SaveFunction saver);

    /// What the person at the grid is told just now about a cell, e.g. why an entry was refused; empty when nothing.
    QString message() const;

    /// For status lines, the workbench and tests.
    Session& session();
    PictureShelf& pictures();
    /// Its colours just now (grid/paint/looks.h).
    const Tokens& look() const;
    const std::shared_ptr<const Snapshot>& snapshot() const;
    /// Paints the visible part once into a paint device of the viewport's size; returns milliseconds. For bench.
    double paintOnce(QPaintDevice& device);
    /// Where a heading or cell stands in the viewport; empty when it is not in sight.
    QRect headingRect(const QString& field) const;
    QRect tierRect(const QString& name) const;
    /// The mark on a tier that folds it.
    QRect foldRect(const QString& name) const;
    QRect cellRect(std::int64_t line, const QString& field) const;
    /// Where a figure stands: on a group's line, or in the totals.
    QRect figureRect(const QString& summary, std::optional<std::int64_t> line = std::nullopt) const;
    /// Where a line stands, over the whole width; that of an open group at the top where it stays there.
    QRect lineRect(std::int64_t line) const;
    /// The entry of a column in the filter row.
    QRect filterRect(const QString& field) const;

    QSize sizeHint() const override;

  Q_SIGNALS:
    /// A person double-clicked a record that is not edited so, or pressed Enter on it.
    void recordActivated(const jollyrow::Record& record);
    /// A link or button of a composed face was pressed, by mouse, by the space bar or by assistive technology; `name`
    /// is the part's. The grid opens nothing by itself.
    void partPressed(const jollyrow::Record& record, const QString& field, const QString& name);
    void currentRecordChanged(const jollyrow::Record& record);
    void selectionChanged();
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
    /// A figure was clicked: of the plan's summary with this index, of a node of the snapshot's groups or, for their
    /// number, of all records. `where` is in the viewport.
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
    /// Writes a cell of the snapshot as if it had been typed in the grid.
    void write(SourceRow row, FieldIndex field, const Value& value, const std::string& label);
    Editor* newEditor(const PlannedColumn& column, QWidget* parent);
    void addCheck(RecordCheck check);
    void announceFocus();
};

}  // namespace jollyrow
