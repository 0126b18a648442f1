// SPDX-License-Identifier: MIT
#include "grid/select/navigator.h"

namespace jollyrow {
namespace {
constexpr int kTypeAheadMs = 900;
constexpr std::int64_t kMostSearched = 200'000;  // lines a typed jump looks at: about a frame
}  // namespace

void Navigator::choose(CellPlace place, SelectHow how, Cursor::Way way) {
    if (!rows_.view() || !hooks_.mayGoTo(rows_.rowAt(place.line))) return;
    const Cursor::Moved moved = cursor_.choose(place, how, context_.planned(place.column).design.field, way);
    scroller_.show(place);
    Grid& grid = context_.grid();
    if (moved.otherRecord) Q_EMIT grid.currentRecordChanged(grid.selection().current());
    const bool otherSelection = moved.otherRecord || moved.otherSelection || how == SelectHow::Toggle;
    if (otherSelection) {
        Q_EMIT grid.selectionChanged();
        hooks_.selected();
    }
    hooks_.chosen();
    context_.update();
    hooks_.announceFocus();
}

void Navigator::tellCurrent() {
    cursor_.noteCurrent(context_.planned(cursor_.column()).design.field);
    Q_EMIT context_.grid().currentRecordChanged(context_.grid().selection().current());
}

void Navigator::moveAcrossLines(int step, SelectHow how) {
    const auto current = cursor_.current();
    const int lines = body_.recordLines();
    if (!current || lines == 1) return moveBy(step, 0, how);
    const ColumnLayout& columns = body_.columns();
    const int place = columns.place(current->column);
    for (int line = columns.line(current->column) + step; line >= 0 && line < lines; line += step)
        if (const auto column = columns.columnOn(place, line)) return choose({current->line, *column}, how);
    const std::int64_t next = current->line + step;
    if (!rows_.has(next)) return;
    for (int line = step > 0 ? 0 : lines - 1; line >= 0 && line < lines; line += step)
        if (const auto column = columns.columnOn(place, line)) return choose({next, *column}, how);
}

void Navigator::moveBy(std::int64_t byLines, int byColumns, SelectHow how) {
    const std::int64_t count = rows_.count();
    const int columns = body_.columns().count();
    if (count == 0 || columns == 0) return;
    CellPlace place = cursor_.current().value_or(CellPlace{0, 0});
    const bool isFar = std::abs(byLines) > count;  // Ctrl+End means the end also before anything is current
    if (cursor_.current() || isFar) {
        place.line = std::clamp<std::int64_t>(place.line + byLines, 0, count - 1);
        place.column = std::clamp(place.column + byColumns, 0, columns - 1);
    }
    choose(place, how);
}

void Navigator::selectAll() {
    cursor_.selectAll(context_.snapshot(), body_.columns().count());
    hooks_.selected();
    Q_EMIT context_.grid().selectionChanged();
    context_.update();
}

bool Navigator::revisit(bool forward) {
    const auto row = cursor_.visited(forward);
    const auto line = row ? context_.snapshot().lineOf(*row) : std::nullopt;
    if (!line || body_.columns().count() == 0 || !hooks_.mayLeave()) return false;
    choose({raw(*line), cursor_.column()}, SelectHow::Replace, Cursor::Way::Revisit);
    return true;
}

bool Navigator::isTypingAhead() const {
    return typedAt_.isValid() && typedAt_.elapsed() < kTypeAheadMs && !typedAhead_.isEmpty();
}

void Navigator::jumpTo(const QString& typed) {
    if (!cursor_.current() || !rows_.view()) return;
    const bool goesOn = isTypingAhead();
    typedAhead_ = goesOn ? typedAhead_ + typed : typed;
    typedAt_.restart();
    const std::int64_t count = rows_.count();
    const CellPlace from = *cursor_.current();
    CellText cell;
    for (std::int64_t step = goesOn ? 0 : 1; step < std::min(count, kMostSearched); ++step) {
        const std::int64_t line = (from.line + step) % count;
        rows_.cell(line, from.column, cell);
        if (QString::fromUtf8(cell.text).startsWith(typedAhead_, Qt::CaseInsensitive))
            return choose({line, from.column}, SelectHow::Replace);
    }
}

void Navigator::openGoTo() {
    if (rows_.count() == 0 || body_.columns().count() == 0 || !hooks_.mayLeave()) return;
    delete goTo_;
    goTo_ = new GoToEntry(rows_.count(), &context_.viewport());
    const auto close = [this] {
        if (!goTo_) return;
        GoToEntry* closing = goTo_;
        goTo_ = nullptr;
        closing->hide();
        closing->deleteLater();
        context_.grid().setFocus();
    };
    QObject::connect(goTo_, &GoToEntry::closed, &context_.grid(), close);
    QObject::connect(goTo_, &GoToEntry::chosen, &context_.grid(), [this, close](std::int64_t line) {
        close();
        context_.grid().selection().setCurrentCell(line, cursor_.column());
    });
    goTo_->openIn(context_.viewport().rect().adjusted(0, body_.top(), 0, 0));
}

}  // namespace jollyrow
