// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_record_control.cpp.
#include "grid/records/record_control.h"

#include "grid/paint/grouped.h"

#include <QApplication>
#include <QClipboard>
#include <QMimeData>

#include <algorithm>
#include <set>

#include "core/session/whole_record.h"
#include "grid/select/clipboard.h"

namespace jollyrow {
namespace {

constexpr std::size_t kMostDeleted = 100'000;

QString recordsWords(std::size_t count) {
    return count == 1 ? Grid::tr("1 record") : Grid::tr("%1 records").arg(grouped(count));
}

QString wordsOf(const Dependents& dependents) {
    QString what = Grid::tr("%1 of %2").arg(grouped(dependents.records)).arg(QString::fromStdString(dependents.table));
    switch (dependents.then) {
        case Dependents::Then::Refuse: return Grid::tr("%1 point here").arg(what);
        case Dependents::Then::Delete:
            return Grid::tr("%1 are deleted, too, and undo does not bring them back").arg(what);
        case Dependents::Then::Unlink: return Grid::tr("%1 lose their link").arg(what);
        case Dependents::Then::Default: return Grid::tr("%1 get their default link").arg(what);
    }
    return what;
}

}  // namespace

SourceRow RecordControl::current() const {
    const auto current = p_.cursor.current();
    return current && p_.rows.isRecord(current->line) ? p_.rows.rowAt(current->line) : kNoRow;
}

bool RecordControl::canInsert() const {
    return p_.context.isEditable() && p_.context.design().grid.canInsert && p_.context.schema().writable;
}

bool RecordControl::canDelete() const {
    return p_.context.isEditable() && p_.context.design().grid.canDelete && p_.context.schema().writable;
}

bool RecordControl::mayLeave(SourceRow next) {
    const SourceRow row = current();
    if (row == kNoRow || row == next) return true;
    const RecordEdit* record = p_.context.snapshot().edits->record(row);
    if (!record) return true;
    const bool isWrong = record->change() != RecordChange::Delete && isBlocked(*record) && !onlyWaits(*record);
    if (isWrong && !p_.context.design().grid.keepsDrafts) {
        p_.editors.showRefusal();
        return false;
    }
    if (!isWrong) p_.context.session().records().leave(row);
    return true;
}

bool RecordControl::show(const Result<SourceRow>& made) {
    if (made)
        made_ = *made;
    else
        p_.context.say(QString::fromStdString(made.error().message));
    snapshotArrived();
    return true;
}

bool RecordControl::insert(int column) {
    if (!canInsert() || !p_.editors.mayLeave() || !mayLeave(kNoRow)) return false;
    madeColumn_ = column;
    return show(p_.context.session().records().insert());
}

void RecordControl::showWhenThere(SourceRow row) {
    made_ = row;
    madeColumn_ = kNotEdited;
}

bool RecordControl::duplicate() {
    const SourceRow row = current();
    if (row == kNoRow || !canInsert() || !p_.editors.mayLeave() || !mayLeave(kNoRow)) return false;
    return show(p_.context.session().records().duplicate(row));
}

void RecordControl::snapshotArrived() {
    if (!made_) return;
    const auto line = p_.context.snapshot().lineOf(*made_);
    if (!line) {
        const auto place = p_.context.snapshot().placeOf(*made_);
        if (place) p_.context.session().groups().openAround(*made_);  // comes back here
        return;
    }
    made_.reset();
    const int columns = p_.body.columns().count();
    int column = std::exchange(madeColumn_, -1);
    if (column == kNotEdited) return choose_({raw(*line), std::max(0, p_.cursor.column())});
    if (column < 0 || column >= columns || !p_.context.canEdit(column)) column = 0;
    while (column < columns && !p_.context.canEdit(column)) ++column;
    choose_({raw(*line), column < columns ? column : 0});
    if (column < columns) p_.editors.begin({});
}

void RecordControl::moveRows(const RowMoves& moves) {
    if (made_) made_ = moves.now(*made_);
    if (card_) card_->close();
}

bool RecordControl::remove() {
    if (!canDelete() || !p_.editors.mayLeave()) return false;
    std::vector<SourceRow> rows = p_.cursor.selection().rows().rows(kMostDeleted);
    if (rows.empty() && current() != kNoRow) rows.push_back(current());
    if (rows.empty()) return false;
    remove(rows);
    return true;
}

void RecordControl::remove(const std::vector<SourceRow>& rows) {
    p_.context.session().questions().dependentsOf(rows, [this, rows](const Result<std::vector<Dependents>>& found) {
        if (!found) return p_.context.say(QString::fromStdString(found.error().message));
        const bool comesBack = std::all_of(rows.begin(), rows.end(), [this](SourceRow row) {
            return isKnownWhole(*p_.context.snapshot().table, p_.context.snapshot().edits.get(), row);
        });
        if (rows.size() == 1 && found->empty() && comesBack) return p_.context.session().records().remove(rows);
        ask(rows, *found, comesBack);
    });
}

/// What goes with them is told before.
void RecordControl::ask(const std::vector<SourceRow>& rows, const std::vector<Dependents>& dependents, bool comesBack) {
    QStringList also;
    bool isRefused = false;
    for (const Dependents& one : dependents) {
        also << wordsOf(one);
        isRefused = isRefused || one.then == Dependents::Then::Refuse;
    }
    const QString what = recordsWords(rows.size());
    QString message = isRefused ? Grid::tr("%1 cannot be deleted: %2.").arg(what, also.join(QStringLiteral(", ")))
                                : Grid::tr("Delete %1?").arg(what);
    if (!isRefused && !also.isEmpty()) message += QStringLiteral(" ") + also.join(QStringLiteral(", ")) + u'.';
    if (!isRefused && !comesBack)
        message += QStringLiteral(" ") + Grid::tr("Undo cannot bring back data that was not read, as pictures are.");
    const auto hide = [this] {
        if (strip_) strip_->hide();
        p_.context.grid().setFocus();
    };
    if (isRefused) return say(message, {{Grid::tr("Close"), hide}});
    say(message, {{Grid::tr("Delete %1").arg(what),
                   [this, rows, hide] {
                       hide();
                       p_.context.session().records().remove(rows);
                   }},
                  {Grid::tr("Keep"), hide}});
}

void RecordControl::say(const QString& message, const std::vector<MessageStrip::Link>& links) {
    if (!strip_) {
        strip_ = new MessageStrip(&p_.context.viewport());
        strip_->setObjectName(QStringLiteral("recordQuestion"));
    }
    const auto current = p_.cursor.current();
    const QRect cell = current ? p_.body.cellRect(*current) : QRect(40, p_.body.top(), 1, 1);
    strip_->showUnder(cell, p_.context.viewport().rect().adjusted(0, p_.body.headerHeight(), 0, 0), message, links);
    strip_->focusFirst();
}

bool RecordControl::revert() {
    if (strip_ && strip_->isVisible()) {
        strip_->hide();
        return true;
    }
    const SourceRow row = current();
    const RecordEdit* record = row == kNoRow ? nullptr : p_.context.snapshot().edits->record(row);
    if (!record) return false;
    const CellMark mark = recordMarkOf(*record);
    if (mark <= CellMark::Saved || mark == CellMark::Saving) return false;
    p_.context.session().records().revert(row);
    p_.editors.showRefusal();
    return true;
}

bool RecordControl::save() {
    if (!p_.editors.mayLeave()) return true;
    Session& session = p_.context.session();
    if (session.records().unsaved() == 0) return false;
    const SourceRow row = current();
    if (p_.context.design().grid.saving == Saving::Together)
        session.records().saveAll();
    else if (row != kNoRow)
        session.records().save({row});
    p_.editors.showRefusal();
    return true;
}

bool RecordControl::undo(bool forward) {
    Session& session = p_.context.session();
    const EditStep* step = forward ? session.steps().history().next() : session.steps().history().last();
    if (!p_.editors.mayLeave() || !step) return false;
    const auto row = step->cells.empty() ? std::nullopt : std::optional(step->cells.front().row);
    if (!(forward ? session.steps().redo() : session.steps().undo()))
        p_.context.say(Grid::tr(
            "This is being saved just now, or was changed elsewhere since, or is not known whole; it stays as it is."));
    else if (const auto line = row && !EditHistory::isLost(*row) ? p_.context.snapshot().lineOf(*row) : std::nullopt)
        p_.context.grid().selection().showLine(raw(*line));
    p_.editors.showRefusal();
    return true;
}

/// Where what is pasted begins: the first cell of the selected block, whichever end of it is the current one.
std::optional<CellPlace> RecordControl::pastePlace() const {
    auto at = p_.cursor.current();
    const Selection& selection = p_.cursor.selection();
    if (!at || selection.mode() != SelectionMode::Cells) return at;
    for (const Selection::Block& block : selection.blocks())
        if (block.firstLine <= at->line && at->line < block.endLine && block.firstColumn <= at->column &&
            at->column < block.endColumn)
            return CellPlace{block.firstLine, block.firstColumn};
    return at;
}

bool RecordControl::paste() {
    const auto at = pastePlace();
    const QMimeData* data = QApplication::clipboard()->mimeData();
    const QString text = data ? textToPaste(*data) : QString();
    if (!at || text.isEmpty() || !p_.context.isEditable() || !p_.editors.mayLeave()) return false;
    const BlockEdit block(p_.context, p_.rows);
    auto change = block.pasted(text, *at, p_.cursor.selection(), canInsert());
    if (!change) {
        p_.context.say(QString::fromStdString(change.error().message));
        return true;
    }
    carry(std::move(*change), Grid::tr("Paste"));
    return true;
}

bool RecordControl::clear() {
    const Selection& selection = p_.cursor.selection();
    // Whole columns are emptied by nobody's single key.
    if (selection.mode() != SelectionMode::Cells || selection.onlyCell() || selection.blocks().empty()) return false;
    carry(BlockEdit(p_.context, p_.rows).cleared(selection), Grid::tr("Clear"));
    return true;
}

bool RecordControl::fill(Fill how) {
    const BlockEdit block(p_.context, p_.rows);
    const Selection& selection = p_.cursor.selection();
    if (selection.mode() == SelectionMode::Columns) return false;
    BlockChange change = how == Fill::Down ? block.filledDown(selection) : block.filledSeries(selection);
    if (change.isEmpty() && change.refused.empty()) return false;
    carry(std::move(change), how == Fill::Down ? Grid::tr("Fill down") : Grid::tr("Fill on"));
    return true;
}

namespace {

/// By column, the names that it is to be asked about, each once.
std::map<int, std::vector<std::string>> namesIn(const BlockChange& change) {
    std::map<int, std::set<std::string>> once;
    for (const BlockChange::Named& named : change.named) once[named.column].insert(named.text.toStdString());
    std::map<int, std::vector<std::string>> names;
    for (auto& [column, some] : once) names.emplace(column, std::vector<std::string>(some.begin(), some.end()));
    return names;
}

}  // namespace

/// The records meant by names are asked for, then the change is carried out, if the records are still the same.
void RecordControl::carry(BlockChange change, const QString& label, const std::function<void(std::size_t)>& done) {
    if (change.named.empty()) return carryKnown(std::move(change), label, done);
    struct Waiting {
        BlockChange change;
        NamedByColumn names;
        std::size_t open = 0;
    };
    auto waiting = std::make_shared<Waiting>();
    const auto names = namesIn(change);
    waiting->change = std::move(change);
    waiting->open = names.size();
    const auto plan = p_.context.session().sharedPlan();
    const std::uint32_t epoch = p_.context.snapshot().epoch;
    for (const auto& [column, some] : names)
        p_.context.session().questions().linkedCalled(
            p_.context.planned(column).field, some,
            [this, waiting, plan, epoch, label, done, column = column](const Result<NamedRecords>& found) {
                waiting->names.emplace(column, found);
                if (--waiting->open != 0) return;
                if (p_.context.session().sharedPlan() != plan || p_.context.snapshot().epoch != epoch)
                    return p_.context.say(Grid::tr("The records were read again meanwhile. Nothing was written."));
                const BlockEdit block(p_.context, p_.rows);
                carryKnown(block.resolved(std::move(waiting->change), waiting->names), label, done);
            });
}

void RecordControl::carryKnown(BlockChange change, const QString& label, const std::function<void(std::size_t)>& done) {
    if (change.tooMany != 0 && change.isEmpty() && change.refused.empty())
        return p_.context.say(Grid::tr("These columns cannot be edited. Nothing was written."));
    const auto carryOut = [this, label, done](const BlockChange& agreed) {
        Session& session = p_.context.session();
        Q_EMIT p_.context.grid().editsBegun(label);
        session.steps().begin(label.toStdString());
        p_.editors.write(agreed.cells);
        std::vector<SourceRow> made;
        for (const NewRecord& record : agreed.records) {
            const auto row = session.records().insert(record);
            if (!row) {
                p_.context.say(QString::fromStdString(row.error().message));
                break;
            }
            made.push_back(*row);
        }
        session.steps().end();
        Q_EMIT p_.context.grid().editsEnded();
        if (!made.empty() && p_.context.design().grid.saving != Saving::Together) session.records().save(made);
        if (agreed.tooMany != 0)
            p_.context.say(
                Grid::tr("%1 values had no column to stand in and were left out.").arg(grouped(agreed.tooMany)));
        if (done) done(agreed.cells.size());
    };
    if (change.refused.empty()) return carryOut(change);
    if (pasteCard_) pasteCard_->close();
    pasteCard_ = new PasteCard(change, p_.context.look(), &p_.context.viewport());
    QObject::connect(pasteCard_, &PasteCard::agreed, &p_.context.grid(), [this, change = std::move(change), carryOut] {
        pasteCard_->close();
        carryOut(change);
    });
    QObject::connect(pasteCard_, &FloatingCard::closed, &p_.context.grid(), [this] { p_.context.grid().setFocus(); });
    const auto current = p_.cursor.current();
    pasteCard_->openAt(current ? p_.body.cellRect(*current) : QRect(40, p_.body.top(), 1, 1));
}

bool RecordControl::decide() {
    const SourceRow row = current();
    const RecordEdit* record = row == kNoRow ? nullptr : p_.context.snapshot().edits->record(row);
    if (!record || recordMarkOf(*record) != CellMark::Conflict) return false;
    if (card_) card_->close();
    card_ = new ConflictCard(p_.context, row, &p_.context.viewport());
    QObject::connect(card_, &ConflictCard::decided, &p_.context.grid(), [this, row] {
        const auto choices = card_->choices();
        card_->close();
        p_.context.session().records().resolve(row, choices);
        p_.editors.showRefusal();
    });
    QObject::connect(card_, &FloatingCard::closed, &p_.context.grid(), [this] {
        p_.context.grid().setFocus();
        p_.editors.showRefusal();
    });
    for (MessageStrip* strip : p_.context.viewport().findChildren<MessageStrip*>()) strip->hide();  // it says the same
    card_->openAt(p_.body.cellRect(*p_.cursor.current()));
    return true;
}

}  // namespace jollyrow
