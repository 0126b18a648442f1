// SPDX-License-Identifier: MIT
// Mouse and keys on the records.
#include <QApplication>
#include <QClipboard>
#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QScrollBar>
#include <QToolTip>

#include "grid/inside/grid_p.h"

namespace jollyrow {
namespace {

constexpr int kTypeAheadMs = 900;
constexpr std::int64_t kMostSearched = 200'000;  // lines a typed jump looks at: about a frame
constexpr std::size_t kMostCopied = 100'000;     // records one copy takes

SelectHow howOf(Qt::KeyboardModifiers modifiers) {
    if (modifiers & Qt::ShiftModifier) return SelectHow::Extend;
    return modifiers & Qt::ControlModifier ? SelectHow::Toggle : SelectHow::Replace;
}

}  // namespace

void GridPrivate::choose(CellPlace place, SelectHow how) {
    if (!lines) return;
    const auto before = selection.current();
    const std::int64_t selectedBefore = selection.rows().count();
    followed.reset();
    stripKeepsTyped = false;
    selection.select(place, how,
                     [this](std::int64_t line, const std::function<void(SourceRow)>& take) { rowsOnLine(line, take); });
    showPlace(place);
    const bool otherRecord = !before || before->line != place.line;
    if (otherRecord && !revisiting && isRecordLine(place.line))
        visited.note(lines->rowAt(static_cast<ViewLine>(place.line)), before ? place.line - before->line : 1000);
    announceCurrent();
    if (otherRecord) Q_EMIT grid.currentRecordChanged(grid.currentRecord());
    if (otherRecord || selectedBefore != selection.rows().count() || how == SelectHow::Toggle) {
        Q_EMIT grid.selectionChanged();
        sumUpSelection();
    }
    showRefusal();
    grid.viewport()->update();
    grid.announceFocus();
}

/// Remembers which records are meant, so that a sort or reload finds them again.
void GridPrivate::announceCurrent() {
    currentRow.reset();
    currentGroup.reset();
    const auto current = selection.current();
    if (!current || !lines) return;
    if (const auto group = groupOnLine(current->line)) currentGroup = groupedLines()->tree().nodes[*group].path;
    if (!isRecordLine(current->line)) return;
    currentRow = lines->rowAt(static_cast<ViewLine>(current->line));
    currentField = planned(current->column).design.field;
}

void GridPrivate::setHover(std::optional<CellPlace> place) {
    if (place == hover) return;
    hover = place;
    grid.viewport()->update();
}

void GridPrivate::press(QMouseEvent& event) {
    grid.setFocus(Qt::MouseFocusReason);
    if (editor && !commitEdit()) return;  // the cell is not left while what stands in it is wrong
    focusHeading(std::nullopt);
    if (event.button() != Qt::LeftButton || pressHeading(event)) return;
    figurePressed.reset();
    pressedAt = event.pos();
    if (event.pos().y() >= grid.viewport()->height() - totalsHeight())
        return void(figurePressed = figureAt(event.pos()));
    if (pressGroup(event)) {
        if (!figurePressed) figurePressed = figureAt(event.pos());
        return;
    }
    const auto place = placeAt(event.pos());
    if (!place) {
        // A click on the gutter selects the record.
        const auto line = lineAt(event.pos().y());
        if (lines && event.pos().x() < measure::kGutter && line && *line < lines->lineCount() && columns.count() > 0) {
            // Of several that are selected all are taken along when they are dragged.
            const bool among = event.modifiers() == Qt::NoModifier && selection.rows().count() > 1 &&
                               selection.isRowSelected(lines->rowAt(static_cast<ViewLine>(*line)));
            if (!among)
                choose({*line, selection.current() ? selection.current()->column : 0}, howOf(event.modifiers()));
            if (groupedLines() && selection.mode() != SelectionMode::Cells) gesture = Gesture::PressRecords;
        }
        return;
    }
    choose(*place, howOf(event.modifiers()));
    gesture = Gesture::SelectCells;
    if (planned(place->column).format.type == Type::Boolean && canEdit(place->column) &&
        event.modifiers() == Qt::NoModifier) {
        const QRect cell = frame().cellRect(*place);
        const bool onBox = std::abs(event.pos().x() - cell.center().x()) <= 10 ||
                           planned(place->column).alignment != Alignment::Center;
        if (onBox) toggleCheck(*place);
    }
}

void GridPrivate::move(QMouseEvent& event) {
    lastMove = event.pos();
    if (moveHeading(event)) return;
    if (gesture == Gesture::PressRecords &&
        (event.pos() - pressedAt).manhattanLength() >= QApplication::startDragDistance())
        gesture = Gesture::DragRecords;
    if (gesture == Gesture::DragRecords) {
        dropOn = dropGroupAt(event.pos());
        const bool can = dropOn && valuesOfGroup(*dropOn, recordsDragged());
        grid.viewport()->setCursor(can ? Qt::DragMoveCursor : Qt::ForbiddenCursor);
        const int top = bodyTop(), bottom = bodyBottom();
        if (event.pos().y() < top) scrollPixels(event.pos().y() - top);
        if (event.pos().y() > bottom) scrollPixels(event.pos().y() - bottom);
        return grid.viewport()->update();
    }
    if (gesture != Gesture::SelectCells) {
        const auto place = placeAt(event.pos());
        setHover(place);
        return;
    }
    // Dragging past the edge scrolls, faster the farther out.
    const int top = bodyTop(), bottom = bodyBottom();
    const int beyond = event.pos().y() < top      ? event.pos().y() - top
                       : event.pos().y() > bottom ? event.pos().y() - bottom
                                                  : 0;
    if (beyond != 0)
        autoScroll.start();
    else
        autoScroll.stop();
    if (beyond != 0) scrollPixels(beyond);
    const QPoint inside(
        std::clamp(event.pos().x(), measure::kGutter, std::max(measure::kGutter, grid.viewport()->width() - 1)),
        std::clamp(event.pos().y(), top, bottom - 1));
    if (const auto place = placeAt(inside); place && place != selection.current()) choose(*place, SelectHow::Extend);
}

void GridPrivate::release(QMouseEvent& event) {
    autoScroll.stop();
    if (releaseHeading(event)) return;
    if (gesture == Gesture::DragRecords) {
        gesture = Gesture::None;
        grid.viewport()->unsetCursor();
        if (const auto group = std::exchange(dropOn, std::nullopt)) dropRecordsOn(*group);
        return grid.viewport()->update();
    }
    gesture = Gesture::None;
    if (const auto pressed = std::exchange(figurePressed, std::nullopt)) {
        const auto still = figureAt(event.pos());
        if (still && still->summary == pressed->summary && still->node == pressed->node)
            Q_EMIT grid.figureClicked(static_cast<int>(still->summary), still->node, still->rect);
    }
}

void GridPrivate::doubleClick(QMouseEvent& event) {
    if (event.button() != Qt::LeftButton || doubleClickHeading(event)) return;
    const auto place = placeAt(event.pos());
    if (!place || (editor && !commitEdit())) return;
    if (groupOnLine(place->line)) {
        // On a figure the first click has opened what explains it.
        const auto line = groupedLines()->tree().nodes[*groupOnLine(place->line)].level;
        if (!figureAt(event.pos()) && event.pos().x() > GroupPainter::chevronRect(frame(), line, 0, 20).right() + 2)
            toggleGroup(place->line);
        return;
    }
    if (!isRecordLine(place->line)) return;
    if (selection.current() != place) choose(*place, SelectHow::Replace);
    if (canEdit(place->column)) {
        if (planned(place->column).format.type != Type::Boolean)
            beginEdit({});  // a check was toggled by the first click
    } else {
        Q_EMIT grid.recordActivated(recordAt(place->line));
    }
}

/// Up and down inside a record of several lines, else to the next record.
void GridPrivate::moveAcrossLines(int step, SelectHow how) {
    const auto current = selection.current();
    if (!current || session->plan().recordLines == 1) return moveCurrent(step, 0, how);
    const int place = columns.place(current->column);
    for (int line = columns.line(current->column) + step; line >= 0 && line < session->plan().recordLines; line += step)
        if (const auto column = columns.columnOn(place, line)) return choose({current->line, *column}, how);
    const std::int64_t next = current->line + step;
    if (!lines || next < 0 || next >= lines->lineCount()) return;
    const int lines0 = session->plan().recordLines;
    for (int line = step > 0 ? 0 : lines0 - 1; line >= 0 && line < lines0; line += step)
        if (const auto column = columns.columnOn(place, line)) return choose({next, *column}, how);
}

void GridPrivate::moveCurrent(std::int64_t byLines, int byColumns, SelectHow how) {
    const std::int64_t count = lines ? lines->lineCount() : 0;
    if (count == 0 || columns.count() == 0) return;
    CellPlace place = selection.current().value_or(CellPlace{0, 0});
    const bool isFar = std::abs(byLines) > count;  // Ctrl+End means the end also before anything is current
    if (selection.current() || isFar) {
        place.line = std::clamp<std::int64_t>(place.line + byLines, 0, count - 1);
        place.column = std::clamp(place.column + byColumns, 0, columns.count() - 1);
    }
    choose(place, how);
}

bool GridPrivate::key(QKeyEvent& event) {
    const bool shift = event.modifiers() & Qt::ShiftModifier, control = event.modifiers() & Qt::ControlModifier;
    const SelectHow how = shift ? SelectHow::Extend : control ? SelectHow::MoveOnly : SelectHow::Replace;
    if (control && event.key() == Qt::Key_F) {
        if (shift) {
            if (selection.current() || columns.count() > 0)
                focusFilter(QString::fromStdString(
                    planned(selection.current() ? selection.current()->column : 0).design.field));
        } else {
            openFind({});
        }
        return true;
    }
    if (event.key() == Qt::Key_F3 && foundSet) {
        stepFound(shift ? -1 : 1);
        return true;
    }
    const std::int64_t page = hasAutomaticHeights()
                                  ? std::max<std::int64_t>(1, places().end() - places().first() - 2)
                                  : std::max<std::int64_t>(1, (bodyBottom() - bodyTop()) / recordHeight() - 1);
    if (headingFocus && headingKey(event)) return true;
    constexpr std::int64_t kFar = std::int64_t{1} << 60;
    const int most = columns.count();
    if (event.modifiers() == Qt::AltModifier && (event.key() == Qt::Key_Left || event.key() == Qt::Key_Right)) {
        revisit(event.key() == Qt::Key_Right);
        return true;
    }
    if (event.modifiers() == Qt::ControlModifier && event.key() == Qt::Key_J) {
        openGoTo();
        return true;
    }
    if (groupKey(event)) return true;
    switch (event.key()) {
        case Qt::Key_Escape:
            if (gesture == Gesture::DragRecords || gesture == Gesture::PressRecords) {
                gesture = Gesture::None;
                dropOn.reset();
                grid.viewport()->unsetCursor();
                grid.viewport()->update();
                return true;
            }
            if (gesture == Gesture::ResizeColumn || gesture == Gesture::DragColumn) {
                gesture = Gesture::None;
                session->setDesign(designBefore);
                relayout();
                return true;
            }
            if (!chosenFields.empty()) {
                chosenFields.clear();
                grid.viewport()->update();
                return true;
            }
            return false;
        case Qt::Key_Up:
            // From the first record the way goes on into the headings.
            if (columns.count() > 0 && !shift && !control && (!selection.current() || selection.current()->line == 0) &&
                (!selection.current() || columns.line(selection.current()->column) == 0)) {
                focusHeading(HeadingHit{selection.current() ? selection.current()->column : 0, {}, {}});
                return true;
            }
            moveAcrossLines(-1, how);
            return true;
        case Qt::Key_Down: moveAcrossLines(1, how); return true;
        case Qt::Key_Menu:
            if (selection.current())
                openLineMenu(selection.current()->line,
                             grid.viewport()->mapToGlobal(frame().cellRect(*selection.current()).bottomLeft()));
            return true;
        case Qt::Key_Left: moveCurrent(0, -1, how == SelectHow::MoveOnly ? SelectHow::Replace : how); return true;
        case Qt::Key_Right: moveCurrent(0, 1, how == SelectHow::MoveOnly ? SelectHow::Replace : how); return true;
        case Qt::Key_PageUp: moveCurrent(-page, 0, how); return true;
        case Qt::Key_PageDown: moveCurrent(page, 0, how); return true;
        case Qt::Key_Home:
            moveCurrent(control ? -kFar : 0, control ? 0 : -most, shift ? SelectHow::Extend : SelectHow::Replace);
            return true;
        case Qt::Key_End:
            moveCurrent(control ? kFar : 0, control ? 0 : most, shift ? SelectHow::Extend : SelectHow::Replace);
            return true;
        case Qt::Key_Tab:
        case Qt::Key_Backtab: {
            const auto current = selection.current();
            const int step = event.key() == Qt::Key_Tab ? 1 : -1;
            if (control || !current || current->column + step < 0 || current->column + step >= most) return false;
            moveCurrent(0, step, SelectHow::Replace);
            return true;
        }
        case Qt::Key_F2: return beginEdit({});
        case Qt::Key_F5: session->reload(); return true;
        case Qt::Key_Return:
        case Qt::Key_Enter:
            if (grid.currentRecord().isValid()) Q_EMIT grid.recordActivated(grid.currentRecord());
            return selection.current().has_value();
        case Qt::Key_Space:
            if (!selection.current()) return false;
            if (!control && typedAt.isValid() && typedAt.elapsed() < kTypeAheadMs && !typedAhead.isEmpty() &&
                !canEdit(selection.current()->column)) {
                jumpTo(QStringLiteral(" "));
                return true;
            }
            if (control)
                choose(*selection.current(), SelectHow::Toggle);
            else if (isRecordLine(selection.current()->line) &&
                     planned(selection.current()->column).format.type == Type::Boolean &&
                     canEdit(selection.current()->column))
                toggleCheck(*selection.current());
            else
                choose(*selection.current(), SelectHow::Replace);
            return true;
        case Qt::Key_Delete:
            if (!selection.current() || !canEdit(selection.current()->column) || !beginEdit({})) return false;
            editor->setText({});
            return true;
        default: break;
    }
    if (event.matches(QKeySequence::SelectAll)) {
        selection.selectAll(lines ? lines->lineCount() : 0, most, [this](const std::function<void(SourceRow)>& take) {
            const Snapshot& snapshot = *session->snapshot();
            for (std::int64_t place = 0; place < snapshot.recordCount(); ++place) take(snapshot.record(place));
        });
        sumUpSelection();
        Q_EMIT grid.selectionChanged();
        grid.viewport()->update();
        return true;
    }
    if (event.matches(QKeySequence::Copy)) {
        copySelection();
        return true;
    }
    const QString text = event.text();
    const bool printable = !text.isEmpty() && text.at(0).isPrint() &&
                           !(event.modifiers() & (Qt::ControlModifier | Qt::AltModifier | Qt::MetaModifier));
    if (!printable) return false;
    if (selection.current() && canEdit(selection.current()->column) && isRecordLine(selection.current()->line))
        return beginEdit(text);
    jumpTo(text);
    return true;
}

void GridPrivate::openGoTo() {
    if (!lines || lines->lineCount() == 0 || columns.count() == 0 || (editor && !commitEdit())) return;
    delete goTo;
    goTo = new GoToEntry(lines->lineCount(), grid.viewport());
    const auto close = [this] {
        if (!goTo) return;
        GoToEntry* closing = goTo;
        goTo = nullptr;
        closing->hide();
        closing->deleteLater();
        grid.setFocus();
    };
    QObject::connect(goTo, &GoToEntry::closed, &grid, close);
    QObject::connect(goTo, &GoToEntry::chosen, &grid, [this, close](std::int64_t line) {
        close();
        grid.setCurrentCell(line, selection.current() ? selection.current()->column : 0);
    });
    goTo->openIn(grid.viewport()->rect().adjusted(0, bodyTop(), 0, 0));
}

bool GridPrivate::revisit(bool forward) {
    const auto row = forward ? visited.forward() : visited.back();
    const auto line = row ? session->snapshot()->lineOf(*row) : std::nullopt;
    if (!line || columns.count() == 0 || (editor && !commitEdit())) return false;
    revisiting = true;
    choose({raw(*line), selection.current() ? selection.current()->column : 0}, SelectHow::Replace);
    revisiting = false;
    return true;
}

/// Typing on a column that is not edited goes to the next record whose value there begins so.
void GridPrivate::jumpTo(const QString& typed) {
    if (!selection.current() || !lines) return;
    const bool goesOn = typedAt.isValid() && typedAt.elapsed() < kTypeAheadMs;
    typedAhead = goesOn ? typedAhead + typed : typed;
    typedAt.restart();
    const std::int64_t count = lines->lineCount();
    const CellPlace from = *selection.current();
    CellText cell;
    for (std::int64_t step = goesOn ? 0 : 1; step < std::min(count, kMostSearched); ++step) {
        const std::int64_t line = (from.line + step) % count;
        lines->cell(static_cast<ViewLine>(line), from.column, cell);
        if (QString::fromUtf8(cell.text).startsWith(typedAhead, Qt::CaseInsensitive))
            return choose({line, from.column}, SelectHow::Replace);
    }
}

/// Selected records or the block of cells as tab-separated text.
void GridPrivate::copySelection() const {
    if (!lines) return;
    QString out;
    CellText cell;
    const auto append = [&](int first, int end, const auto& read) {
        bool isFirst = true;
        for (int column = first; column < end; ++column) {
            if (!chosenFields.empty() &&
                std::find(chosenFields.begin(), chosenFields.end(), planned(column).design.field) == chosenFields.end())
                continue;
            read(column);
            QString text = QString::fromUtf8(cell.text);
            text.replace(u'\t', u' ').replace(u'\n', u' ');
            out += (std::exchange(isFirst, false) ? QString() : QStringLiteral("\t")) + text;
        }
        out += u'\n';
    };
    if (selection.mode() == SelectionMode::Cells) {
        for (const Selection::Block& block : selection.blocks())
            for (std::int64_t line = block.firstLine;
                 line < std::min(block.endLine, block.firstLine + static_cast<std::int64_t>(kMostCopied)); ++line)
                append(block.firstColumn, block.endColumn,
                       [&](int column) { lines->cell(static_cast<ViewLine>(line), column, cell); });
    } else {
        std::size_t copied = 0;
        const Snapshot& snapshot = *session->snapshot();
        for (std::int64_t place = 0;
             place < snapshot.recordCount() &&
             copied < std::min<std::size_t>(kMostCopied, static_cast<std::size_t>(selection.rows().count()));
             ++place) {
            const SourceRow row = snapshot.record(place);
            if (!selection.isRowSelected(row)) continue;
            append(0, columns.count(), [&](int column) { readCell(snapshot, row, planned(column), cell); });
            ++copied;
        }
    }
    if (!out.isEmpty()) QApplication::clipboard()->setText(out);
}

/// Shows the whole text where it is cut, why a cell is marked, or what a heading is bound to.
bool GridPrivate::showToolTip(QHelpEvent& event) {
    QString tip;
    QRect area;
    if (event.pos().y() < headerHeight()) {
        const auto hit = headingLayout().hitAt(event.pos());
        if (hit && hit->tier) {
            const PlannedTier& tier = plannedTier(*hit->tier);
            tip = QString::fromStdString(tier.design.toolTip.empty() ? tier.design.heading : tier.design.toolTip);
            if (tier.foldedAway > 0)
                tip += Grid::tr("\n%n column(s) folded away; a click on the mark brings them back.", nullptr,
                                tier.foldedAway);
            area = headingLayout().tierRect(*hit->tier);
        } else if (hit && hit->column && !planned(*hit->column).design.toolTip.empty()) {
            tip = QString::fromStdString(planned(*hit->column).design.toolTip);
            area = headingLayout().columnRect(*hit->column);
        } else if (const auto column = hit ? hit->column : std::nullopt) {
            const PlannedColumn& p = planned(*column);
            const FieldSchema& field = session->schema().field(p.field);
            tip = Grid::tr("%1 — %2.%3, %4")
                      .arg(QString::fromStdString(p.design.heading), QString::fromStdString(session->schema().name),
                           QString::fromStdString(field.name),
                           QString::fromUtf8(article(field.type).data(),
                                             static_cast<qsizetype>(article(field.type).size())));
            area = headingLayout().columnRect(*column);
        }
    } else if (const auto place = placeAt(event.pos())) {
        CellText cell;
        lines->cell(static_cast<ViewLine>(place->line), place->column, cell);
        area = frame().cellRect(*place);
        if (cell.isMisfit)
            tip =
                Grid::tr("Stored as \"%1\", which is not %2.")
                    .arg(QString::fromUtf8(cell.text),
                         QString::fromUtf8(article(planned(place->column).format.type).data(),
                                           static_cast<qsizetype>(article(planned(place->column).format.type).size())));
        else if (painter->text().elides(cell.text, columns.width(place->column) - 2 * measure::kCellPadding))
            tip = QString::fromUtf8(cell.text.substr(0, 4000));
    }
    if (tip.isEmpty()) {
        QToolTip::hideText();
        event.ignore();
        return true;
    }
    QToolTip::showText(event.globalPos(), QStringLiteral("<qt>%1</qt>").arg(tip.toHtmlEscaped()), grid.viewport(),
                       area);
    return true;
}

}  // namespace jollyrow
