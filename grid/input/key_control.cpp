// SPDX-License-Identifier: MIT
#include "grid/input/key_control.h"

#include "grid/faces/cell_face.h"

namespace jollyrow {

bool KeyControl::key(const QKeyEvent& event) {
    const auto stroke = strokeOf(event.key(), event.modifiers());
    const auto isTurn = [&](KeyTurn turn) { return stroke && stroke->turn == turn; };
    if (isTurn(KeyTurn::First) && carryOut(*stroke)) return true;
    if (p_.headings.focus() && p_.headings.key(event)) return true;
    if (isTurn(KeyTurn::AfterHeadings)) return carryOut(*stroke);
    if (p_.groups.key(event)) return true;
    if (isTurn(KeyTurn::AfterGroups)) return carryOut(*stroke);
    return type(event);
}

bool KeyControl::canEditCurrent() const {
    const auto current = p_.cursor.current();
    return current && p_.context.canEdit(current->column);
}

bool KeyControl::focusFilter() {
    if (p_.body.columns().count() == 0) return true;
    p_.filters.focus(QString::fromStdString(p_.context.planned(p_.cursor.column()).design.field));
    return true;
}

bool KeyControl::carryOut(const KeyStroke& stroke) {
    switch (stroke.what) {
        case GridKey::Find: return p_.find.open({}), true;
        case GridKey::Replace: return p_.find.openReplacing(), true;
        case GridKey::FindNext: return p_.find.step(1);
        case GridKey::FindPrevious: return p_.find.step(-1);
        case GridKey::FocusFilter: return focusFilter();
        case GridKey::Back: return p_.navigator.revisit(false), true;
        case GridKey::Forward: return p_.navigator.revisit(true), true;
        case GridKey::GoToLine: return p_.navigator.openGoTo(), true;
        case GridKey::EarlierFilter: return p_.context.grid().filters().bringBack(), true;
        case GridKey::Explain:
        case GridKey::ExplainAll:
            if (const auto figure = p_.groups.figureToExplain(stroke.what == GridKey::ExplainAll))
                Q_EMIT p_.context.grid().figureClicked(static_cast<int>(figure->summary), figure->node, figure->rect);
            return true;
        case GridKey::GoToBeginning: return p_.navigator.openGoTo(GoToEntry::By::Beginning), true;
        case GridKey::Escape: return hooks_.cancel() || p_.records.revert();
        case GridKey::Menu: return openMenu();
        case GridKey::Edit: return p_.editors.begin({});
        case GridKey::Clear:
            if (canEditCurrent() && p_.pictures.takes(p_.cursor.current()->column))
                return p_.pictures.empty(*p_.cursor.current()), true;
            if (p_.records.clear()) return true;
            if (!canEditCurrent() || !p_.editors.begin({})) return false;
            p_.editors.editor()->clear();
            return true;
        case GridKey::Reload: return p_.context.session().reload(), true;
        case GridKey::Activate: {
            Grid& grid = p_.context.grid();
            if (const Record record = grid.selection().current(); record.isValid()) Q_EMIT grid.recordActivated(record);
            return p_.cursor.current().has_value();
        }
        case GridKey::Space: return space(stroke);
        case GridKey::SelectAll: return p_.navigator.selectAll(), true;
        case GridKey::Copy: return hooks_.copy(Headings::Without), true;
        case GridKey::CopyWithHeadings: return hooks_.copy(Headings::With), true;
        case GridKey::Paste:
            return p_.cursor.current() && (p_.pictures.paste(*p_.cursor.current()) || p_.records.paste());
        case GridKey::Insert: return p_.records.insert();
        case GridKey::Duplicate: return p_.records.duplicate();
        case GridKey::Remove: return p_.records.remove();
        case GridKey::Save: return p_.records.save();
        case GridKey::Undo: return p_.records.undo(false);
        case GridKey::Redo: return p_.records.undo(true);
        case GridKey::FillDown: return p_.records.fill(RecordControl::Fill::Down);
        case GridKey::SideBySide: return p_.context.grid().selection().openSideBySide(), true;
        case GridKey::ToGroupAbove: return hooks_.moveToGroup(-1);
        case GridKey::ToGroupBelow: return hooks_.moveToGroup(1);
        case GridKey::FillSeries: return p_.records.fill(RecordControl::Fill::Series);
        case GridKey::NextCell: return tab(1);
        case GridKey::PreviousCell: return tab(-1);
        case GridKey::Up: return up(stroke.how);
        default: return move(stroke);
    }
}

bool KeyControl::move(const KeyStroke& stroke) {
    constexpr std::int64_t kFar = std::int64_t{1} << 60;
    const int columns = p_.body.columns().count();
    const std::int64_t page = p_.body.page();
    switch (stroke.what) {
        case GridKey::Down: p_.navigator.moveAcrossLines(1, stroke.how); break;
        case GridKey::Left: p_.navigator.moveBy(0, -1, stroke.how); break;
        case GridKey::Right: p_.navigator.moveBy(0, 1, stroke.how); break;
        case GridKey::PageUp: p_.navigator.moveBy(-page, 0, stroke.how); break;
        case GridKey::PageDown: p_.navigator.moveBy(page, 0, stroke.how); break;
        case GridKey::RowStart: p_.navigator.moveBy(0, -columns, stroke.how); break;
        case GridKey::RowEnd: p_.navigator.moveBy(0, columns, stroke.how); break;
        case GridKey::First: p_.navigator.moveBy(-kFar, 0, stroke.how); break;
        case GridKey::Last: p_.navigator.moveBy(kFar, 0, stroke.how); break;
        default: return false;
    }
    return true;
}

/// From the first record the way goes on into the headings.
bool KeyControl::up(SelectHow how) {
    const auto current = p_.cursor.current();
    const ColumnLayout& columns = p_.body.columns();
    const bool isTop = !current || (current->line == 0 && columns.line(current->column) == 0);
    if (columns.count() > 0 && how == SelectHow::Replace && isTop)
        p_.headings.setFocus(HeadingHit{p_.cursor.column(), {}, {}});
    else
        p_.navigator.moveAcrossLines(-1, how);
    return true;
}

bool KeyControl::tab(int step) {
    const auto current = p_.cursor.current();
    if (!current || current->column + step < 0 || current->column + step >= p_.body.columns().count()) return false;
    p_.navigator.moveBy(0, step, SelectHow::Replace);
    return true;
}

bool KeyControl::openMenu() {
    if (const auto current = p_.cursor.current())
        hooks_.openMenu(current->line, p_.context.viewport().mapToGlobal(p_.body.cellRect(*current).bottomLeft()));
    return true;
}

bool KeyControl::space(const KeyStroke& stroke) {
    const auto current = p_.cursor.current();
    if (!current) return false;
    const bool isToggling = stroke.how == SelectHow::Toggle;
    if (!isToggling && p_.navigator.isTypingAhead() && !canEditCurrent())
        return p_.navigator.jumpTo(QStringLiteral(" ")), true;
    const bool presses = faceOf(p_.context.planned(current->column)).press() == FacePress::Toggles;
    if (!isToggling && presses && !p_.rows.banner(current->line) && p_.rows.isRecord(current->line) && canEditCurrent())
        p_.editors.toggle(*current);
    else if (isToggling || !(p_.presses.pressFirst(*current) || p_.pictures.open(*current)))
        p_.navigator.choose(*current, isToggling ? SelectHow::Toggle : SelectHow::Replace);
    return true;
}

/// Typing opens the editor, or goes to the next record that begins so.
bool KeyControl::type(const QKeyEvent& event) {
    const QString text = event.text();
    const bool isPrintable = !text.isEmpty() && text.at(0).isPrint() &&
                             !(event.modifiers() & (Qt::ControlModifier | Qt::AltModifier | Qt::MetaModifier));
    if (!isPrintable) return false;
    if (canEditCurrent() && p_.rows.isRecord(p_.cursor.current()->line)) return p_.editors.begin(text);
    p_.navigator.jumpTo(text);
    return true;
}

}  // namespace jollyrow
