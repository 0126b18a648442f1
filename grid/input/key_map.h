// SPDX-License-Identifier: MIT
#pragma once
// KeyMap: what a key asks of the grid: a table of keys, nothing of what they do. Window-free.

#include <Qt>

#include <optional>

#include "grid/select/selection.h"

namespace jollyrow {

enum class GridKey {
    Find,
    Replace,
    FindNext,
    FindPrevious,
    FocusFilter,
    Back,
    Forward,
    GoToLine,
    GoToBeginning,
    EarlierFilter,  ///< the last one taken away is brought back
    Explain,        ///< how the figure of the group, or of the records shown, was made
    ExplainAll,     ///< that of all records
    Up,
    Down,
    Left,
    Right,
    PageUp,
    PageDown,
    RowStart,
    RowEnd,
    First,
    Last,
    NextCell,
    PreviousCell,
    Escape,
    Menu,
    Edit,
    Clear,
    Activate,
    Reload,
    Space,
    SelectAll,
    Copy,
    CopyWithHeadings,
    Paste,
    Insert,
    Duplicate,
    Remove,
    Save,
    Undo,
    Redo,
    FillDown,
    FillSeries,
    ToGroupAbove,  ///< the selected records get what makes them records of the group before theirs
    ToGroupBelow,
    SideBySide  ///< the selected records on a card, as columns
};

/// Which part of the grid is asked before.
enum class KeyTurn {
    First,          ///< nobody
    AfterHeadings,  ///< the headings, when the keys are there
    AfterGroups,    ///< the lines of groups too
};

struct KeyStroke {
    GridKey what;
    KeyTurn turn;
    SelectHow how;  ///< for keys that move: Shift extends, Ctrl moves alone
    bool operator==(const KeyStroke&) const = default;
};

/// nullopt for a key that the grid does not know; it may be typed text.
std::optional<KeyStroke> strokeOf(int key, Qt::KeyboardModifiers modifiers);

}  // namespace jollyrow
