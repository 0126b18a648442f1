// SPDX-License-Identifier: MIT
#pragma once
// The inside of Grid. Not installed, no promise. One class, its work in one file per subject:
// grid_view.cpp (layout, scrolling, frames), grid_fits.cpp (widths that contents need), grid_input.cpp (cells by mouse
// and keys), grid_headings.cpp (headings by mouse), grid_heading_keys.cpp (headings by keys, menus, renaming),
// grid_editing.cpp (editors and messages), grid_groups.cpp (groups and totals), grid_filters.cpp (filter row and
// menus), grid_pick.cpp (pick lists), grid_find.cpp (finding).

#include <QElapsedTimer>
#include <QLineEdit>
#include <QMenu>
#include <QPointer>
#include <QTimer>

#include <map>
#include <memory>
#include <unordered_map>

#include "core/session/session.h"
#include "grid/api/grid.h"
#include "grid/editors/cell_editor.h"
#include "grid/editors/message_strip.h"
#include "grid/filter/pick_popup.h"
#include "grid/find/find_bar.h"
#include "grid/headings/heading_landing.h"
#include "grid/input/go_to_entry.h"
#include "grid/paint/grid_painter.h"
#include "grid/paint/heading_painter.h"
#include "grid/select/order_chip.h"
#include "grid/select/visited_records.h"

namespace jollyrow {

class FilterRow;

class GridPrivate final {
  public:
    explicit GridPrivate(Grid& grid);

    // grid.cpp
    void begun();

    // grid_view.cpp
    void makeFonts();
    void relayout();
    void snapshotArrived();
    void rowsMoved(const RowMoves& moves);
    void showOutOfPlace();
    void makeLines();
    void loadEnded(const Result<void>& result);
    GridFrame frame() const;
    HeadingState headingState() const;
    HeadingLayout headingLayout() const { return {session->plan(), columns, headingHeights, scrollX}; }
    void paint(QPainter& painter, const QRect& dirty);
    void setScrollX(int x);
    void setScrollY(std::int64_t y);
    void syncBars();
    void showPlace(CellPlace place);
    /// Of one line of a record, and of a record whose height is not automatic.
    int rowHeight() const;
    int recordHeight() const { return rowHeight() * std::max(1, session->plan().recordLines); }
    /// Headings and filter row.
    int headerHeight() const { return headingLayout().height() + filterRowHeight(); }
    int bodyTop() const;
    int bodyBottom() const;
    bool hasAutomaticHeights() const;
    int heightOf(std::int64_t line) const;
    const LinePlaces& places() const;
    void scrollPixels(std::int64_t pixels);
    void findPinnedLines();
    std::optional<std::int64_t> lineAt(int y) const;
    std::optional<CellPlace> placeAt(QPoint position) const;
    std::optional<int> columnOf(const QString& field) const;
    /// The part of the viewport in which a column can be seen: beside the pinned ones unless it is one of them.
    QRect roomOf(int column) const;
    const PlannedColumn& planned(int column) const { return session->plan().columns[static_cast<std::size_t>(column)]; }
    int fitWidth(int column) const;
    void measureFits();
    std::uint64_t dataOf(const PlannedColumn& column) const;
    /// Fits columns to heading and all of their values, a column at a time, then changes the design in one step.
    void fitExactly(std::vector<std::string> fields);
    int exactFit(int column) const;
    Record recordAt(std::int64_t line) const;
    const Tokens& look() const;
    QString emptyMessage() const;

    // grid_input.cpp
    void press(QMouseEvent& event);
    void move(QMouseEvent& event);
    void release(QMouseEvent& event);
    void doubleClick(QMouseEvent& event);
    bool key(QKeyEvent& event);
    void moveCurrent(std::int64_t lines, int columns, SelectHow how);
    void moveAcrossLines(int step, SelectHow how);
    void choose(CellPlace place, SelectHow how);
    void setHover(std::optional<CellPlace> place);
    bool showToolTip(QHelpEvent& event);
    void jumpTo(const QString& typed);
    void copySelection() const;
    void announceCurrent();
    void openGoTo();
    bool revisit(bool forward);

    // grid_headings.cpp
    bool pressHeading(QMouseEvent& event);
    bool moveHeading(QMouseEvent& event);
    bool releaseHeading(QMouseEvent& event);
    bool doubleClickHeading(QMouseEvent& event);
    void sortBy(int column, bool addKey);
    void changeDesign(Design design, const QString& label);
    void hoverHeading(const std::optional<HeadingHit>& hit, bool onBorder);
    void clickTier(int tier, HeadingHit::Part part);
    void dropHeading(const QPoint& at);
    DraggedHeading dragged() const;
    const PlannedTier& plannedTier(int tier) const { return session->plan().tiers[static_cast<std::size_t>(tier)]; }

    // grid_heading_keys.cpp
    bool headingKey(QKeyEvent& event);
    void focusHeading(std::optional<HeadingHit> hit);
    void moveHeadingFocus(int across, int up);
    void moveByKey(int step);
    void openHeadingMenu(const HeadingHit& hit, const QPoint& global);
    void openLineMenu(std::int64_t line, const QPoint& global);
    void openRecordMenu(std::int64_t line, const QPoint& global);
    void fillColumnMenu(QMenu& menu, int column);
    void fillTierMenu(QMenu& menu, int tier);
    void fillCommonMenu(QMenu& menu);
    void rename(const HeadingHit& hit);
    void setFolded(const std::string& tier, bool folded);
    void pinUpTo(std::optional<int> column, bool right);
    void openColumnList();
    template <class Change>
    void changeColumn(const std::string& field, const QString& label, const Change& change) {
        Design design = session->design();
        if (ColumnDesign* column = design.column(field)) change(*column);
        changeDesign(std::move(design), label.arg(headingOfField(session->design(), field)));
    }

    // grid_groups.cpp
    bool isRecordLine(std::int64_t line) const;
    bool isFooterLine(std::int64_t line) const;
    const GroupedLines* groupedLines() const;
    std::optional<std::uint32_t> groupOnLine(std::int64_t line) const;
    std::optional<std::int64_t> lineOfGroup(std::uint64_t path) const;
    int groupLineHeight(int level, bool footer) const;
    bool hasOwnGroupHeights() const;
    std::vector<PinnedLine> stickyLines() const;
    int stickyDepth(std::int64_t line) const;
    int totalRowHeight() const;
    int totalsHeight() const;
    std::vector<TotalScope> totalScopes() const;
    std::vector<TotalRow> totalRows() const;
    void sumUpSelection();
    void rowsOnLine(std::int64_t line, const std::function<void(SourceRow)>& take) const;
    void toggleGroup(std::int64_t line);
    bool pressGroup(QMouseEvent& event);
    bool groupKey(QKeyEvent& event);
    void openGroupMenu(std::int64_t line, const QPoint& global);
    /// What a heading's menu offers of groups and figures.
    void fillGroupMenu(QMenu& menu, const std::string& field);
    struct FigureHit {
        std::size_t summary = 0;
        std::uint32_t node = 0;
        QRect rect;
    };
    std::optional<FigureHit> figureAt(QPoint position) const;
    std::optional<std::uint32_t> dropGroupAt(QPoint position) const;
    std::vector<SourceRow> recordsDragged() const;
    Result<std::vector<std::pair<FieldIndex, Value>>> valuesOfGroup(std::uint32_t node,
                                                                    const std::vector<SourceRow>& rows) const;
    void dropRecordsOn(std::uint32_t node);

    // grid_filters.cpp
    int filterRowHeight() const;
    void layoutFilterRow();
    void takeFilterEntry(const QString& field, const QString& text);
    void setFilterAt(const QString& field, const std::string& rule, const std::string& entry);
    void showFilterProblem();
    void moveFilterFocus(const QString& field, int step);
    /// Shows the row when it is hidden; false when the column is not shown.
    bool focusFilter(const QString& field);
    void fillFilterMenu(QMenu& menu, const QString& field);
    void openFilterMenu(const QString& field, const QPoint& global);
    void openFilterRowMenu(const QPoint& global);
    void clearFilters();

    // grid_find.cpp
    void openFind(const QString& text);
    void closeFind();
    void find(const QString& text);
    void stepFound(int by);
    void showFoundCount();

    // grid_pick.cpp
    void openPickList(const QString& field);

    // grid_editing.cpp
    bool canEdit(int column) const;
    bool beginEdit(const QString& typed);
    /// False when the typed text was refused and the editor stays.
    bool commitEdit();
    bool commitLookUp();
    void endEdit();
    /// Puts the editor where its record and column are now; what was typed is said when they are gone.
    void followEdit();
    void loseEdit(const QString& why);
    void refuse(const QString& message);
    void toggleCheck(CellPlace place);
    void showRefusal();
    void placeEditor();
    void answered(SourceRow row, FieldIndex field, const CellEdit& edit);

    Grid& grid;
    std::unique_ptr<Session> session;
    std::vector<Finding> fileFindings;
    std::unique_ptr<SnapshotLines> lines;
    const ViewPlan* linesPlan = nullptr;  ///< the plan whose columns `lines` answers for
    std::unique_ptr<GridPainter> painter;
    std::unique_ptr<HeadingPainter> headings;
    ColumnLayout columns;
    ScrollMap scroll;
    Selection selection;
    std::optional<SourceRow> currentRow;        ///< follows the record of the current cell through sorts
    std::optional<std::uint64_t> currentGroup;  ///< the path of the group whose line is current
    std::optional<SourceRow> followed;          ///< an edited record, to be kept in sight when it moves
    std::vector<EvaluatedCell> selectedFigures;
    std::optional<FigureHit> figurePressed;
    std::optional<std::uint32_t> dropOn;
    bool ownHeights = false;   ///< groups stand in other heights than records
    std::string currentField;  ///< and its column through moves and folds
    struct Fit {
        std::shared_ptr<const Formatter> formatter;
        std::string heading;
        std::size_t rows = 0;
        std::uint64_t data = 0;  ///< of the column measured
        int widthPx = 80;
        int decimalInset = 0;
        const void* grouping = nullptr;  ///< whose figures were measured; only compared
        std::size_t figureRows = 0;
        int figuresPx = 0;
    };
    std::unordered_map<std::string, Fit> knownFits;  ///< by field; a change of design measures what it changed
    std::vector<int> fits;                           ///< by plan column, pixels
    std::vector<int> decimalInsets;
    const ViewPlan* fitsPlan = nullptr;
    const void* fitsGrouping = nullptr;
    std::size_t fitsRows = 0;
    const Table* fitsTable = nullptr;
    HeadingHeights headingHeights;
    mutable std::optional<LinePlaces> placesKept;
    mutable std::unordered_map<std::int64_t, int> heightsKept;  ///< automatic heights by line
    std::vector<std::int64_t> pinnedTop, pinnedBottom;          ///< lines of the pinned records
    int scrollX = 0;
    std::int64_t scrollY = 0;
    double wheelRest = 0;
    bool editable = true;
    QString failure;

    std::optional<CellPlace> hover;
    std::optional<HeadingHit> hoveredHeading;
    std::optional<HeadingHit> headingFocus;  ///< while the keys are on the headings
    std::vector<QString> designFields;
    std::optional<QString> designTier;
    std::vector<std::string> chosenFields;  ///< columns selected by a click on their tier
    bool designing = false;

    /// What the pressed mouse button is doing.
    enum class Gesture { None, SelectCells, PressHeading, ResizeColumn, DragColumn, PressRecords, DragRecords };
    Gesture gesture = Gesture::None;
    HeadingHit pressedHeading;
    int gestureColumn = 0;
    QPoint pressedAt;
    int widthBefore = 0;
    Design designBefore;
    QPoint dragAt;
    HeadingLanding landing;
    QPointer<QLineEdit> nameEntry;
    QPointer<QWidget> columnList;
    QTimer autoScroll;
    QPoint lastMove;

    QPointer<CellEditor> editor;
    CellPlace editorPlace;
    SourceRow editorRow{};
    FieldIndex editorField{};
    std::string editorFieldName;    ///< and its field through a change of the table
    bool stripKeepsTyped = false;   ///< the strip holds what was typed for a record that is gone, until one goes on
    bool editorRecordGone = false;  ///< a reload did not bring the record again
    QString editorLabel;            ///< of a look-up, as it was
    MessageStrip* strip = nullptr;

    struct WrongEntry {
        QString text, problem;
    };
    FilterRow* filterRow = nullptr;
    std::map<std::string, WrongEntry> wrongEntries;  ///< by field: typed in the filter row and not understood
    MessageStrip* filterProblem = nullptr;
    bool typingFilter = false;
    QPointer<PickPopup> pickPopup;
    QPointer<FindBar> findBar;
    QPointer<OrderChip> orderChip;
    FindQuery findQueryNow;
    std::shared_ptr<const RecordSet> foundSet;
    QPointer<GoToEntry> goTo;
    VisitedRecords visited;
    bool revisiting = false;
    QString typedAhead;
    QElapsedTimer typedAt;
    bool syncing = false;
};

}  // namespace jollyrow
