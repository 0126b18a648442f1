// SPDX-License-Identifier: MIT
// How the parts of a grid hang together: who is made with what, and what each is told when.
#include "grid/inside/grid_private.h"

#include <QApplication>
#include <QClipboard>
#include <QMetaMethod>

#include <algorithm>

#include "grid/paint/grouped.h"
#include "grid/select/clipboard.h"

namespace jollyrow {

Post postTo(Grid& grid) {
    // The session's destructor joins its threads before the grid is gone, so the pointer is good here.
    return [target = QPointer<Grid>(&grid)](std::function<void()> call) {
        if (target) QMetaObject::invokeMethod(target.data(), std::move(call), Qt::QueuedConnection);
    };
}

namespace {

/// What a step is called in a list of what can be taken back.
QString stepWords(const GridContext& context, const EditStep& step) {
    if (!step.label.empty()) return QString::fromStdString(step.label);
    const auto ofRecords = [](std::size_t count, const QString& one, const QString& many) {
        return count == 1 ? one : many.arg(grouped(static_cast<qint64>(count)));
    };
    if (!step.removed.empty())
        return ofRecords(step.removed.size(), Grid::tr("Delete a record"), Grid::tr("Delete %1 records"));
    if (!step.inserted.empty())
        return ofRecords(step.inserted.size(), Grid::tr("New record"), Grid::tr("%1 new records"));
    const FieldIndex field = step.cells.front().field;
    const bool isOneField = std::all_of(step.cells.begin(), step.cells.end(),
                                        [&](const EditStep::Cell& cell) { return cell.field == field; });
    if (!isOneField) return Grid::tr("Edit %1 cells").arg(grouped(static_cast<qint64>(step.cells.size())));
    const std::string& name = context.schema().field(field).name;
    return Grid::tr("Edit %1").arg(QString::fromStdString(context.design().headingOf(name)));
}

}  // namespace

GridPrivate::GridPrivate(Grid& owner)
    : session_(std::make_unique<Session>(postTo(owner), listener())),
      grid(owner),
      context(owner, *session_, [this] { relayout(); }),
      scroller(context, body,
               [this](Scroller::Way way) {
                   editors.place();
                   editors.showRefusal();
                   parts.pictures.scrolled();
                   if (way != Scroller::Way::Across) return;
                   search.filters.layout();
                   entryLine->update();
               }),
      editors(context, rows, body, scroller, cursor,
              [this](int lines, int columns) { navigator.moveBy(lines, columns, SelectHow::Replace); }),
      navigator(context, rows, body, scroller, cursor, navigatorHooks()),
      headings(context, body, scroller, painters,
               {[this](const HeadingHit& hit, const QPoint& global) { menus.headings.open(hit, global); },
                [this] { announceFocus(); }}),
      exactFits(context, fits, [this] { return fitInput(); }),
      groups(context, rows, body, scroller, cursor, painters, groupHooks()),
      figures{{context, rows, cursor, painters}, {context, rows, cursor}, {context, cursor}},
      entryLine(new EntryLine(context, body, [this](int column) { records.insert(column); })),
      search{{context, body, scroller, filterHooks()},
             {context, search.filters, scroller,
              [this](const QString& field) { return headings.layout().columnRect(*context.columnOf(field)); }},
             {context, rows, body, cursor, [this](CellPlace place) { navigator.choose(place, SelectHow::Replace); },
              [this](BlockChange change, const QString& label, const std::function<void(std::size_t)>& done) {
                  records.carry(std::move(change), label, done);
              }}},
      parts{{context, rows, body},
            {*session_, postTo(owner),
             [this] {
                 context.update();
                 parts.pictures.arrived();
                 Q_EMIT grid.picturesArrived();
             }},
            {context, rows, body, parts.shelf, editors}},
      records({context, rows, body, scroller, cursor, editors},
              [this](CellPlace place) { navigator.choose(place, SelectHow::Replace); }),
      menus{{context, rows, groupMenuHooks()},
            {context, search.filters, [this](const QString& field) { search.picks.open(field); }},
            {context, body, scroller, headings, exactFits, menus.filters, menus.groups,
             [this](const QString& field) { search.filters.focus(field); }},
            {context, rows, cursor, parts.pictures, records, [this](Headings with) { copySelection(with); }}},
      input{{{context, rows, body, scroller, cursor, navigator, editors, groups, parts.presses}, headings, exactFits},
            {{context, rows, body, cursor, navigator, editors, headings, groups, search.filters, search.find,
              parts.presses, parts.pictures, records},
             keyHooks()}} {
    editors.setForPictures([this](CellPlace place) { return parts.pictures.open(place); });
    editors.setForConflicts([this] { records.decide(); });
    QObject::connect(&grid, &Grid::designEdited, &grid, [this] { noteFilter(); });
    QObject::connect(&grid, &Grid::selectionChanged, &grid, [this] {
        static const QMetaMethod signal = QMetaMethod::fromSignal(&Grid::selectedRecordsChanged);
        figures.told.tell(grid.isSignalConnected(signal));
    });
    makeFonts();
}

SessionListener GridPrivate::listener() {
    SessionListener listener;
    listener.onSnapshot = [this] { snapshotArrived(); };
    listener.onSchemas = [this] { Q_EMIT grid.schemasRead(); };
    listener.onProgress = [this](const LoadProgress& progress) { Q_EMIT grid.loadProgressed(progress); };
    listener.onLoaded = [this](const Result<void>& result) { loadEnded(result); };
    listener.onEditAnswered = [this](SourceRow, FieldIndex, const CellEdit& edit) {
        editors.showRefusal();
        Q_EMIT grid.editAnswered(edit.state == EditState::Saved, QString::fromStdString(edit.message));
    };
    listener.onStep = [this](const EditStep& step) { Q_EMIT grid.stepMade(stepWords(context, step)); };
    listener.onRecordAnswered = [this](const RecordJournal::Answered& answer) { recordAnswered(answer); };
    listener.onDraftsLeft = [this] {
        Q_EMIT grid.draftsLeft(static_cast<int>(context.session().drafts().left().size()));
    };
    listener.onElsewhere = [this](const std::vector<SourceRow>& changed, std::size_t count) {
        marks_.glow.lightUp(changed);
        Q_EMIT grid.changedElsewhere(static_cast<int>(count));
    };
    listener.onRowsMoved = [this](const RowMoves& moves) { rowsMoved(moves); };
    listener.onFailure = [this](const Error& error) { context.say(QString::fromStdString(error.message)); };
    return listener;
}

Navigator::Hooks GridPrivate::navigatorHooks() {
    return {[this] { return editors.mayLeave(); }, [this](SourceRow next) { return records.mayLeave(next); },
            [this] { editors.chosen(); },
            [this] {
                figures.totals.sumUpSelection();
                figures.selected.refresh();
            },
            [this] { announceFocus(); }};
}

GroupControl::Hooks GridPrivate::groupHooks() {
    return {[this] { return frame(); }, [this] { return editors.mayLeave(); },
            [this](CellPlace place, SelectHow how) { navigator.choose(place, how); }, [this] { announceFocus(); }};
}

FilterControl::Hooks GridPrivate::filterHooks() {
    FilterControl::Hooks hooks;
    hooks.headings = [this] { return headings.layout(); };
    hooks.leave = [this](int column, bool upwards) {
        if (upwards) return headings.setFocus(HeadingHit{column, {}, {}});
        if (rows.count() != 0)
            navigator.choose({cursor.current() ? cursor.current()->line : 0, column}, SelectHow::Replace);
    };
    hooks.openMenu = [this](const QString& field, const QPoint& at) { menus.filters.open(field, at); };
    hooks.openRowMenu = [this](const QPoint& at) { menus.filters.openForRow(at); };
    hooks.openPickList = [this](const QString& field) { search.picks.open(field); };
    return hooks;
}

GroupMenus::Hooks GridPrivate::groupMenuHooks() {
    return {[this](std::int64_t line) { groups.toggle(line); },
            [this](std::int64_t line) {
                navigator.choose({line, 0}, SelectHow::Replace);
            },
            [this] { copySelection(); }};
}

KeyControl::Hooks GridPrivate::keyHooks() {
    return {[this] { return cancel(); }, [this](Headings with) { copySelection(with); },
            [this](std::int64_t line, const QPoint& global) { openLineMenu(line, global); },
            [this](int step) { return input.gestures.onBody().moveToGroup(step); }};
}

/// What the mouse does, else the columns that were selected by their tier.
bool GridPrivate::cancel() {
    if (input.gestures.cancel()) return true;
    if (headings.chosen().empty()) return false;
    headings.clearChosen();
    context.update();
    return true;
}

void GridPrivate::begun(const QString& path) {
    opened.findings.clear();
    opened.failure.clear();
    parts.shelf.clear();
    cursor.clear();
    body.setScrollX(0);
    body.setScrollY(0);
    const SourceDesign& source = context.design().source;
    search.earlier.open(opened.stateFolder, path.toStdString(), source.query.empty() ? source.table : source.query);
    context.setFilterBefore(context.design().filter);
    relayout();
}

/// A person has changed the design; what was filtered until then can be brought back.
void GridPrivate::noteFilter() {
    search.earlier.changed(context.filterBefore(), context.design().filter);
    context.setFilterBefore(context.design().filter);
}

void GridPrivate::makeFonts() {
    painters.makeFor(grid.font());
    fits.clear();
}

QString GridPrivate::problemAt(CellPlace place) const {
    const SourceRow row = rows.rowAt(place.line);
    const RecordEdit* record = row == kNoRow ? nullptr : context.snapshot().edits->record(row);
    if (!record) return {};
    const FieldIndex field = context.planned(place.column).field;
    const CellEdit* edit = record->find(field);
    if (edit && !edit->message.empty() && context.planned(place.column).design.rule.empty())
        return QString::fromStdString(edit->message);
    const RecordProblem* problem = jollyrow::problemAt(*record, field);
    return problem ? QString::fromStdString(problem->message) : QString();
}

void GridPrivate::recordAnswered(const RecordJournal::Answered& answer) {
    editors.showRefusal();
    const bool isThere = answer.change != RecordChange::Delete || !answer.isStored;
    Q_EMIT grid.recordAnswered(isThere ? context.record(answer.row) : Record(), answer.isStored,
                               QString::fromStdString(answer.message));
}

Record GridPrivate::recordAt(std::int64_t line) const {
    return rows.isRecord(line) ? context.record(rows.rowAt(line)) : Record();
}

void GridPrivate::openMenuAt(const QPoint& at, const QPoint& global) {
    if (const auto hit = headings.layout().hitAt(at)) return menus.headings.open(*hit, global);
    const auto place = body.placeAt(at);
    if (!place || !editors.mayLeave()) return;
    const SourceRow row = rows.rowAt(place->line);
    if (row == kNoRow || !cursor.selection().isRowSelected(row)) navigator.choose(*place, SelectHow::Replace);
    openLineMenu(place->line, global);
}

void GridPrivate::openLineMenu(std::int64_t line, const QPoint& global) {
    rows.groupOn(line) ? menus.groups.open(line, global) : menus.records.open(line, global);
}

void GridPrivate::copySelection(Headings withHeadings) {
    if (!rows.view()) return;
    if (const auto cell = cursor.selection().onlyCell(); cell && parts.pictures.pictureIn(cell->column))
        return parts.pictures.copy(*cell);
    const Copied taken =
        copied(cursor.selection(), rows, context.snapshot(), context.plan(), headings.chosen(), withHeadings);
    if (taken.isEmpty()) return;
    QApplication::clipboard()->setMimeData(taken.mimeData().release());
    if (taken.leftOut != 0)
        context.say(Grid::tr("%1 records were copied, the most at once; %2 more were not.")
                        .arg(grouped(taken.records))
                        .arg(grouped(taken.leftOut)));
}

void GridPrivate::showOutOfPlace() {
    const std::size_t count = context.session().view().outOfPlace().size();
    if (!marks_.orderChip && count == 0) return;
    if (!marks_.orderChip) {
        marks_.orderChip = new OrderChip(grid.viewport(), context.look());
        marks_.orderChip->setFont(grid.font());
        QObject::connect(marks_.orderChip, &OrderChip::clicked, &grid, [this] {
            context.session().view().resort();
            grid.setFocus();
            showOutOfPlace();
        });
    }
    marks_.orderChip->showCount(count, QRect(0, 0, grid.viewport()->width(), body.bottom()));
}

void GridPrivate::rowsMoved(const RowMoves& moves) {
    const bool otherSelection = cursor.moveRows(moves);
    figures.told.forget();
    marks_.glow.clear();
    editors.moveRows(moves);
    records.moveRows(moves);
    parts.shelf.moveRows(moves);
    search.find.forgetFound();  // found again when the load has ended
    input.gestures.forgetRecords();
    if (otherSelection) Q_EMIT grid.selectionChanged();
}

/// Lines answer by column index, so they go with the plan as much as with the snapshot.
void GridPrivate::showRows() {
    const Session& session = context.session();
    rows.show(std::make_unique<SnapshotRows>(session.snapshot(), session.sharedPlan()), &session.plan());
}

void GridPrivate::snapshotArrived() {
    showRows();
    const auto arrival = cursor.arrived(context.snapshot(), context.session().isLoading());
    if (arrival == Cursor::Arrival::WantsGroups)
        return void(context.session().groups().openAround(*cursor.row()));  // comes back here with that snapshot
    const bool otherSelection = cursor.dropGone(*context.snapshot().edits);
    editors.follow();
    relayout();
    if (cursor.lostItsRecord()) navigator.tellCurrent();
    if (arrival == Cursor::Arrival::Moved && cursor.current()) scroller.show(*cursor.current());
    figures.totals.sumUpSelection();
    figures.selected.refresh();
    parts.pictures.moved();
    records.snapshotArrived();
    if (otherSelection) Q_EMIT grid.selectionChanged();
    Q_EMIT grid.snapshotChanged();
}

void GridPrivate::loadEnded(const Result<void>& result) {
    opened.failure = result ? QString() : QString::fromStdString(result.error().message);
    relayout();
    search.find.findAgain();  // the records are others now
    Q_EMIT grid.loadEnded(opened.failure);
    if (opened.objects) opened.objects->loaded();
}

}  // namespace jollyrow
