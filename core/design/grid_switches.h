// SPDX-License-Identifier: MIT
#pragma once
// The yes/no settings of a grid, one line each: what the design file calls it, where Fittings offer it and in which
// words, and what the undo list calls a change of it (docs/adding.md).

#include "core/design/design.h"

namespace jollyrow {

enum class GridSwitchPlace {
    Rows,
    Order,
    Widths,
    Entering,
    Elsewhere,  ///< set where it belongs, e.g. at the summaries
};

struct GridSwitch {
    const char* key;
    bool GridDesign::*setting;
    GridSwitchPlace place;
    const char* words;
    const char* step;
    const char* toolTip;
};

inline constexpr GridSwitch kGridSwitches[] = {
    {"stripes", &GridDesign::stripes, GridSwitchPlace::Rows, "Stripes", "Stripes", ""},
    {"lines", &GridDesign::lines, GridSwitchPlace::Rows, "Hairlines", "Hairlines", ""},
    {"crossLight", &GridDesign::crossLight, GridSwitchPlace::Rows, "Cross-light", "Cross-light",
     "Record and column under the pointer are tinted"},
    {"filterRow", &GridDesign::filterRow, GridSwitchPlace::Order, "Filter row under the headings", "Filter row", ""},
    {"resortAtOnce", &GridDesign::resortAtOnce, GridSwitchPlace::Order, "Edited records move at once",
     "Move edited records at once",
     "Else they stay until they are put back in order, so that rows do not jump while one edits"},
    {"keepsDrafts", &GridDesign::keepsDrafts, GridSwitchPlace::Entering, "Drafts may break checks",
     "Drafts may break checks", "Else a cell or record is not left while it breaks one. Neither is saved"},
    {"canInsert", &GridDesign::canInsert, GridSwitchPlace::Entering, "Records may be added", "Adding records", ""},
    {"canDelete", &GridDesign::canDelete, GridSwitchPlace::Entering, "Records may be deleted", "Deleting records", ""},
    {"followsOthers", &GridDesign::followsOthers, GridSwitchPlace::Entering, "Show what others save",
     "Show what others save", "Looked for several times a second; a record that somebody has changed lights up"},
    {"lastFills", &GridDesign::lastFills, GridSwitchPlace::Widths, "Last column fills what is left",
     "Last column fills", ""},
    {"doubleClickEdits", &GridDesign::doubleClickEdits, GridSwitchPlace::Entering, "A double-click edits the cell",
     "What a double-click does", "Else it activates the record, and cells are edited by F2, by Enter or by typing"},
    {"stickyGroups", &GridDesign::stickyGroups, GridSwitchPlace::Elsewhere, "", "", ""},
    {"totalFiltered", &GridDesign::totalFiltered, GridSwitchPlace::Elsewhere, "", "", ""},
    {"totalAll", &GridDesign::totalAll, GridSwitchPlace::Elsewhere, "", "", ""},
    {"totalSelected", &GridDesign::totalSelected, GridSwitchPlace::Elsewhere, "", "", ""},
    {"turnedSummary", &GridDesign::turnedSummary, GridSwitchPlace::Elsewhere, "", "", ""},
};

}  // namespace jollyrow
