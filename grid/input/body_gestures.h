// SPDX-License-Identifier: MIT
#pragma once
// BodyGestures: the mouse on records, lines of groups and totals: choosing cells, turning checks over, dragging records
// on a group, clicking figures.

#include <QMouseEvent>
#include <QTimer>

#include <optional>
#include <variant>

#include "grid/editors/editor_host.h"
#include "grid/faces/part_presses.h"
#include "grid/groups/group_control.h"
#include "grid/groups/record_drop.h"
#include "grid/select/navigator.h"

namespace jollyrow {

class BodyGestures final {
  public:
    struct Parts {
        GridContext& context;
        const ShownRows& rows;
        const BodyGeometry& body;
        Scroller& scroller;
        Cursor& cursor;
        Navigator& navigator;
        EditorHost& editors;
        GroupControl& groups;
        const PartPresses& presses;
    };
    explicit BodyGestures(const Parts& parts);

    void press(const QMouseEvent& event);
    void doubleClick(const QMouseEvent& event);
    void move(const QMouseEvent& event);
    void release(const QMouseEvent& event);
    /// Ends a drag of records. False when there is none.
    bool cancel();
    bool isBusy() const { return !std::holds_alternative<std::monostate>(doing_); }
    /// A reload: what is dragged is of other rows.
    void forgetRecords();
    void hover(std::optional<CellPlace> place);
    std::optional<CellPlace> hovered() const { return hovered_; }
    /// The group that records are held over.
    /// The selected records go to the group before or behind. False: nothing is grouped.
    bool moveToGroup(int step) { return p_.editors.mayLeave() && drop_.moveBy(step); }
    std::optional<std::uint32_t> dropOn() const { return drop_.over(); }

  private:
    struct SelectCells {};
    struct PressRecords {
        QPoint at;
    };
    struct DragRecords {};
    bool pressGroup(const QMouseEvent& event);
    void pressGutter(const QMouseEvent& event);
    void extendTo(QPoint position);
    void dragTo(QPoint position);
    /// Pixels that a point lies above the body (negative) or below it.
    int beyond(QPoint position) const;

    Parts p_;
    RecordDrop drop_;
    std::variant<std::monostate, SelectCells, PressRecords, DragRecords> doing_;
    std::optional<FigureHit> figurePressed_;
    std::optional<CellPlace> hovered_;
    QTimer autoScroll_;
    QPoint lastMove_;
};

}  // namespace jollyrow
