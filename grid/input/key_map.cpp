// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_key_map.cpp.
#include "grid/input/key_map.h"

namespace jollyrow {
namespace {

struct KeyBinding {
    int key;
    Qt::KeyboardModifiers watched;  ///< modifiers that matter
    Qt::KeyboardModifiers held;     ///< those of them that must be held
    GridKey what;
    KeyTurn turn;
};

constexpr Qt::KeyboardModifiers kNone = Qt::NoModifier, kShift = Qt::ShiftModifier, kControl = Qt::ControlModifier,
                                kAlt = Qt::AltModifier;
// Without the keypad's, which says where a key is and not what it means.
constexpr Qt::KeyboardModifiers kAll = kShift | kControl | kAlt | Qt::MetaModifier;

/// The first that fits counts.
constexpr KeyBinding kBindings[] = {
    {Qt::Key_F, kControl | kShift, kControl | kShift, GridKey::FocusFilter, KeyTurn::First},
    {Qt::Key_F, kControl, kControl, GridKey::Find, KeyTurn::First},
    {Qt::Key_H, kControl, kControl, GridKey::Replace, KeyTurn::First},
    {Qt::Key_F3, kShift, kShift, GridKey::FindPrevious, KeyTurn::First},
    {Qt::Key_F3, kNone, kNone, GridKey::FindNext, KeyTurn::First},
    {Qt::Key_Left, kAll, kAlt, GridKey::Back, KeyTurn::AfterHeadings},
    {Qt::Key_Right, kAll, kAlt, GridKey::Forward, KeyTurn::AfterHeadings},
    {Qt::Key_J, kAll, kControl, GridKey::GoToLine, KeyTurn::AfterHeadings},
    {Qt::Key_J, kAll, kControl | kShift, GridKey::GoToBeginning, KeyTurn::AfterHeadings},
    {Qt::Key_I, kAll, kControl, GridKey::Explain, KeyTurn::AfterHeadings},
    {Qt::Key_I, kAll, kControl | kShift, GridKey::ExplainAll, KeyTurn::AfterHeadings},
    {Qt::Key_Escape, kNone, kNone, GridKey::Escape, KeyTurn::AfterGroups},
    {Qt::Key_Up, kAll, kAlt | kShift, GridKey::ToGroupAbove, KeyTurn::AfterGroups},
    {Qt::Key_Down, kAll, kAlt | kShift, GridKey::ToGroupBelow, KeyTurn::AfterGroups},
    {Qt::Key_Up, kNone, kNone, GridKey::Up, KeyTurn::AfterGroups},
    {Qt::Key_Down, kNone, kNone, GridKey::Down, KeyTurn::AfterGroups},
    {Qt::Key_Left, kNone, kNone, GridKey::Left, KeyTurn::AfterGroups},
    {Qt::Key_Right, kNone, kNone, GridKey::Right, KeyTurn::AfterGroups},
    {Qt::Key_PageUp, kNone, kNone, GridKey::PageUp, KeyTurn::AfterGroups},
    {Qt::Key_PageDown, kNone, kNone, GridKey::PageDown, KeyTurn::AfterGroups},
    {Qt::Key_Home, kControl, kControl, GridKey::First, KeyTurn::AfterGroups},
    {Qt::Key_Home, kNone, kNone, GridKey::RowStart, KeyTurn::AfterGroups},
    {Qt::Key_End, kControl, kControl, GridKey::Last, KeyTurn::AfterGroups},
    {Qt::Key_End, kNone, kNone, GridKey::RowEnd, KeyTurn::AfterGroups},
    {Qt::Key_Tab, kControl, kNone, GridKey::NextCell, KeyTurn::AfterGroups},
    {Qt::Key_Backtab, kControl, kNone, GridKey::PreviousCell, KeyTurn::AfterGroups},
    {Qt::Key_Menu, kNone, kNone, GridKey::Menu, KeyTurn::AfterGroups},
    {Qt::Key_F2, kNone, kNone, GridKey::Edit, KeyTurn::AfterGroups},
    {Qt::Key_F5, kNone, kNone, GridKey::Reload, KeyTurn::AfterGroups},
    {Qt::Key_Return, kNone, kNone, GridKey::Activate, KeyTurn::AfterGroups},
    {Qt::Key_Enter, kNone, kNone, GridKey::Activate, KeyTurn::AfterGroups},
    {Qt::Key_Space, kNone, kNone, GridKey::Space, KeyTurn::AfterGroups},
    {Qt::Key_Delete, kAll, kControl, GridKey::Remove, KeyTurn::AfterGroups},
    {Qt::Key_Delete, kNone, kNone, GridKey::Clear, KeyTurn::AfterGroups},
    {Qt::Key_Insert, kAll, kNone, GridKey::Insert, KeyTurn::AfterHeadings},
    {Qt::Key_D, kAll, kControl | kShift, GridKey::Duplicate, KeyTurn::AfterGroups},
    {Qt::Key_D, kAll, kControl, GridKey::FillDown, KeyTurn::AfterGroups},
    {Qt::Key_E, kAll, kControl, GridKey::FillSeries, KeyTurn::AfterGroups},
    {Qt::Key_E, kAll, kControl | kShift, GridKey::EarlierFilter, KeyTurn::AfterHeadings},
    {Qt::Key_B, kAll, kControl, GridKey::SideBySide, KeyTurn::AfterGroups},
    {Qt::Key_S, kAll, kControl, GridKey::Save, KeyTurn::AfterHeadings},
    {Qt::Key_Z, kAll, kControl, GridKey::Undo, KeyTurn::AfterHeadings},
    {Qt::Key_Z, kAll, kControl | kShift, GridKey::Redo, KeyTurn::AfterHeadings},
    {Qt::Key_Y, kAll, kControl, GridKey::Redo, KeyTurn::AfterHeadings},
    {Qt::Key_A, kAll, kControl, GridKey::SelectAll, KeyTurn::AfterGroups},
    {Qt::Key_C, kAll, kControl | kShift, GridKey::CopyWithHeadings, KeyTurn::AfterGroups},
    {Qt::Key_C, kAll, kControl, GridKey::Copy, KeyTurn::AfterGroups},
    {Qt::Key_Insert, kAll, kControl, GridKey::Copy, KeyTurn::AfterGroups},
    {Qt::Key_Copy, kNone, kNone, GridKey::Copy, KeyTurn::AfterGroups},
    {Qt::Key_V, kAll, kControl, GridKey::Paste, KeyTurn::AfterGroups},
    {Qt::Key_Insert, kAll, kShift, GridKey::Paste, KeyTurn::AfterGroups},
    {Qt::Key_Paste, kNone, kNone, GridKey::Paste, KeyTurn::AfterGroups},
};

/// Only Up, Down, pages and Space move alone with Ctrl; sideways and to the ends it means something else or nothing.
SelectHow howOf(GridKey key, Qt::KeyboardModifiers modifiers) {
    const bool vertical =
        key == GridKey::Up || key == GridKey::Down || key == GridKey::PageUp || key == GridKey::PageDown;
    if (modifiers & kControl && key == GridKey::Space) return SelectHow::Toggle;
    if (modifiers & kShift) return SelectHow::Extend;
    return modifiers & kControl && vertical ? SelectHow::MoveOnly : SelectHow::Replace;
}

}  // namespace

std::optional<KeyStroke> strokeOf(int key, Qt::KeyboardModifiers modifiers) {
    for (const KeyBinding& binding : kBindings)
        if (binding.key == key && (modifiers & binding.watched) == binding.held)
            return KeyStroke{binding.what, binding.turn, howOf(binding.what, modifiers)};
    return std::nullopt;
}

}  // namespace jollyrow
