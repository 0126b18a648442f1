// SPDX-License-Identifier: MIT
#pragma once
// GridPrivate: makes the parts of a grid, gives each what it needs of the others, and brings the session's news to
// them in turn. No part's work is done here. Not installed, no promise.

#include <QPointer>

#include <memory>
#include <vector>

#include "core/editing/draft_file.h"
#include "core/session/objects_link.h"
#include "grid/filter/earlier_filters.h"
#include "grid/filter/pick_control.h"
#include "grid/groups/totals.h"
#include "grid/headings/heading_menus.h"
#include "grid/input/gestures.h"
#include "grid/input/key_control.h"
#include "grid/inside/glow.h"
#include "grid/inside/grid_context.h"
#include "grid/inside/pinned_lines.h"
#include "grid/paint/painters.h"
#include "grid/pictures/picture_control.h"
#include "grid/records/entry_line.h"
#include "grid/records/record_control.h"
#include "grid/select/clipboard.h"
#include "grid/select/order_chip.h"
#include "grid/select/record_menu.h"
#include "grid/select/selected_records.h"
#include "grid/select/selection_figures.h"

namespace jollyrow {

/// Calls that worker threads make reach the grid by its event loop, while it is there.
Post postTo(Grid& grid);

class GridPrivate final {
  public:
    explicit GridPrivate(Grid& owner);

    /// Another source was opened: nothing of the last one is left.
    /// `path`: of the source, where it has one.
    void begun(const QString& path);
    void makeFonts();
    void relayout();
    GridFrame frame();
    HeadingState headingState() const;
    void paint(QPainter& painter, const QRect& dirty);
    void openMenuAt(const QPoint& position, const QPoint& global);
    void openLineMenu(std::int64_t line, const QPoint& global);
    void copySelection(Headings headings = Headings::Without);
    Record recordAt(std::int64_t line) const;
    /// What a check says about the cell's value; empty when nothing.
    QString problemAt(CellPlace place) const;
    void announceFocus();

  private:
    SessionListener listener();
    void recordAnswered(const RecordJournal::Answered& answer);
    Navigator::Hooks navigatorHooks();
    GroupControl::Hooks groupHooks();
    FilterControl::Hooks filterHooks();
    GroupMenus::Hooks groupMenuHooks();
    KeyControl::Hooks keyHooks();
    void snapshotArrived();
    void rowsMoved(const RowMoves& moves);
    void loadEnded(const Result<void>& result);
    void showRows();
    void showOutOfPlace();
    void layoutColumns(BodyRoom& room) const;
    BodyRoom roomNow() const;
    int entryHeight() const;
    int lineHeight(std::int64_t line) const;
    FitInput fitInput() const;
    QString emptyMessage() const;
    bool cancel();

    std::unique_ptr<Session> session_;  ///< before all that borrows it

  public:
    /// What a person has filtered by until now can be brought back.
    void noteFilter();
    Grid& grid;
    std::vector<RecordCheck> checks;  ///< of the application
    GridContext context;
    Painters painters;
    ShownRows rows;
    BodyGeometry body;
    ColumnFits fits;
    Scroller scroller;
    Cursor cursor{rows};
    EditorHost editors;
    Navigator navigator;
    HeadingControl headings;
    ExactFits exactFits;
    GroupControl groups;
    struct Figures {
        Totals totals;
        SelectionFigures selected;
        SelectedRecords told;
    } figures;
    EntryLine* entryLine;  ///< of the viewport
    struct Search {
        FilterControl filters;
        PickControl picks;
        FindControl find;
        EarlierFilters earlier = {};
    } search;
    struct Parts {  ///< of cells
        PartPresses presses;
        PictureShelf shelf;
        PictureControl pictures;
    } parts;
    RecordControl records;
    struct Menus {
        GroupMenus groups;
        FilterMenus filters;
        HeadingMenus headings;
        RecordMenu records;
    } menus;
    struct Input {
        Gestures gestures;
        KeyControl keys;
    } input;
    struct Opened {
        std::vector<Finding> findings;                      ///< of the design file
        QString failure;                                    ///< of the last load; empty when it went well
        std::string stateFolder = jollyrow::stateFolder();  ///< drafts and earlier filters; "" = nowhere
        std::unique_ptr<ObjectsLink> objects;  ///< where the records are an application's; ends before the session
    } opened;

  private:
    struct Marks {
        Glow glow;
        PinnedLines pinned;
        QPointer<OrderChip> orderChip;
    } marks_{Glow(context), {}, {}};
};

}  // namespace jollyrow
