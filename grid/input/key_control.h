// SPDX-License-Identifier: MIT
#pragma once
// KeyControl: carries out what keys ask of the grid; keys on headings and on lines of groups are asked there first.

#include <QKeyEvent>

#include <functional>

#include "grid/editors/editor_host.h"
#include "grid/faces/part_presses.h"
#include "grid/filter/filter_control.h"
#include "grid/find/find_control.h"
#include "grid/groups/group_control.h"
#include "grid/headings/heading_control.h"
#include "grid/input/key_map.h"
#include "grid/pictures/picture_control.h"
#include "grid/records/record_control.h"
#include "grid/select/clipboard.h"
#include "grid/select/navigator.h"

namespace jollyrow {

class KeyControl final {
  public:
    struct Hooks {
        std::function<bool()> cancel;  ///< what the mouse is doing; false when it does nothing
        std::function<void(Headings)> copy;
        std::function<void(std::int64_t line, const QPoint& global)> openMenu;
        std::function<bool(int step)> moveToGroup;
    };
    struct Parts {
        GridContext& context;
        const ShownRows& rows;
        const BodyGeometry& body;
        const Cursor& cursor;
        Navigator& navigator;
        EditorHost& editors;
        HeadingControl& headings;
        GroupControl& groups;
        FilterControl& filters;
        FindControl& find;
        const PartPresses& presses;
        PictureControl& pictures;
        RecordControl& records;
    };
    KeyControl(const Parts& parts, Hooks hooks) : p_(parts), hooks_(std::move(hooks)) {}

    /// True when the key was taken.
    bool key(const QKeyEvent& event);

  private:
    bool carryOut(const KeyStroke& stroke);
    bool move(const KeyStroke& stroke);
    bool up(SelectHow how);
    bool tab(int step);
    bool space(const KeyStroke& stroke);
    bool type(const QKeyEvent& event);
    bool focusFilter();
    bool openMenu();
    bool canEditCurrent() const;

    Parts p_;
    Hooks hooks_;
};

}  // namespace jollyrow
