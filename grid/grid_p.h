// SPDX-License-Identifier: MIT
#pragma once
// The inside of Grid. Not installed, no promise. One class, its work in one file per subject:
// grid_view.cpp (layout, scrolling, frames), grid_input.cpp (cells by mouse and keys), grid_headings.cpp (headings by
// mouse), grid_editing.cpp (editors and messages).

#include <QElapsedTimer>
#include <QPointer>
#include <QTimer>

#include <memory>

#include "core/session/session.h"
#include "grid/cell_editor.h"
#include "grid/go_to_entry.h"
#include "grid/grid.h"
#include "grid/grid_painter.h"
#include "grid/heading_painter.h"
#include "grid/message_strip.h"
#include "grid/visited_records.h"

namespace jollyrow {

class GridPrivate final {
  public:
    explicit GridPrivate(Grid& grid);

    // grid_view.cpp
    void makeFonts();
    void relayout();
    void snapshotArrived();
    void makeLines();
    void loadEnded(const Result<void>& result);
    GridFrame frame() const;
    HeadingState headingState() const;
    void paint(QPainter& painter, const QRect& dirty);
    void setScrollX(int x);
    void setScrollY(std::int64_t y);
    void syncBars();
    void showPlace(CellPlace place);
    int rowHeight() const;
    int headerHeight() const;
    std::optional<CellPlace> placeAt(QPoint position) const;
    std::optional<int> columnOf(const QString& field) const;
    /// The part of the viewport in which a column can be seen: beside the pinned ones unless it is one of them.
    QRect roomOf(int column) const;
    const PlannedColumn& planned(int column) const { return session->plan().columns[static_cast<std::size_t>(column)]; }
    int fitWidth(int column) const;
    void measureFits();
    Record recordAt(std::int64_t line) const;
    const Tokens& look() const { return tokens(themeOf(grid.palette())); }
    QString emptyMessage() const;

    // grid_input.cpp
    void press(QMouseEvent& event);
    void move(QMouseEvent& event);
    void release(QMouseEvent& event);
    void doubleClick(QMouseEvent& event);
    bool key(QKeyEvent& event);
    void moveCurrent(std::int64_t lines, int columns, SelectHow how);
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
    void moveColumn(int from, int before);
    void changeDesign(Design design, const QString& label);
    void hoverHeading(std::optional<int> column, bool onBorder);

    // grid_editing.cpp
    bool canEdit(int column) const;
    bool beginEdit(const QString& typed);
    /// False when the typed text was refused and the editor stays.
    bool commitEdit();
    void endEdit();
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
    std::optional<SourceRow> currentRow;  ///< follows the record of the current cell through sorts
    RecordKey currentKey;                 ///< and through reloads
    std::vector<RecordKey> selectedKeys;  ///< kept over a reload
    std::uint64_t tableRowsSeen = 0;
    const Table* tableSeen = nullptr;
    std::vector<int> fits;  ///< by plan column, pixels
    std::vector<int> decimalInsets;
    const ViewPlan* fitsPlan = nullptr;
    std::size_t fitsRows = 0;
    int scrollX = 0;
    std::int64_t scrollY = 0;
    double wheelRest = 0;
    bool editable = true;
    QString failure;

    std::optional<CellPlace> hover;
    std::optional<int> hoveredHeading;
    std::optional<QString> designField;

    /// What the pressed mouse button is doing.
    enum class Gesture { None, SelectCells, PressHeading, ResizeColumn, DragColumn };
    Gesture gesture = Gesture::None;
    int gestureColumn = 0;
    QPoint pressedAt;
    int widthBefore = 0;
    Design designBefore;
    int dragX = 0;
    std::optional<int> landing;
    QTimer autoScroll;
    QPoint lastMove;

    QPointer<CellEditor> editor;
    CellPlace editorPlace;
    SourceRow editorRow{};
    FieldIndex editorField{};
    MessageStrip* strip = nullptr;
    QPointer<GoToEntry> goTo;
    VisitedRecords visited;
    bool revisiting = false;
    QString typedAhead;
    QElapsedTimer typedAt;
    bool syncing = false;
};

}  // namespace jollyrow
