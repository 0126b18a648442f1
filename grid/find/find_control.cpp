// SPDX-License-Identifier: MIT
#include "grid/find/find_control.h"

#include "grid/paint/grouped.h"

#include <QCheckBox>
#include <QLineEdit>

#include "core/rules/utf8.h"

namespace jollyrow {

void FindControl::open(const QString& text) {
    if (!bar_) {
        bar_ = new FindBar(&context_.viewport(), context_.look());
        bar_->setFont(context_.grid().font());
        Grid* grid = &context_.grid();
        QObject::connect(bar_, &FindBar::typed, grid, [this](const QString& typed) { find(typed); });
        QObject::connect(bar_, &FindBar::stepped, grid, [this](int by) { step(by); });
        QObject::connect(bar_, &FindBar::restHidden, grid,
                         [this](bool hidden) { context_.session().view().setOnly(hidden ? found_ : nullptr); });
        QObject::connect(bar_, &FindBar::replaceWanted, grid, [this] { openReplacing(); });
        QObject::connect(bar_, &FindBar::replaceOne, grid, [this](const QString& with) { replace(with, false); });
        QObject::connect(bar_, &FindBar::replaceAll, grid, [this](const QString& with) { replace(with, true); });
        QObject::connect(bar_, &FindBar::closed, grid, [this] { close(); });
    }
    if (!text.isEmpty()) bar_->entry()->setText(text);
    bar_->openIn(context_.viewport().rect().adjusted(0, body_.headerHeight(), 0, 0));
}

void FindControl::showFound(std::shared_ptr<const RecordSet> found, const QString& what) {
    open({});
    bar_->entry()->clear();
    bar_->entry()->setPlaceholderText(what);
    bar_->entry()->setToolTip(what);
    query_ = {};
    found_ = std::move(found);
    bar_->hideRest()->setChecked(true);
    context_.session().view().setOnly(found_);
    bar_->setCount(Grid::tr("%1 records").arg(grouped(static_cast<qint64>(found_->count))));
    context_.update();
}

void FindControl::openReplacing() {
    if (body_.columns().count() == 0) return;
    open({});
    bar_->openReplacing(context_.viewport().rect().adjusted(0, body_.headerHeight(), 0, 0),
                        QString::fromStdString(context_.planned(cursor_.column()).design.heading));
}

/// In the column that "heading: text" names, else in the current one; what is shown of it is searched again, for what
/// was found was looked for in all columns.
void FindControl::replace(const QString& with, bool all) {
    if (!bar_ || query_.empty()) return;
    const FindPart& part = query_.parts.front();
    const int column = part.column ? static_cast<int>(*part.column) : cursor_.column();
    const QString find = QString::fromStdString(part.text);
    if (!context_.canEdit(column))
        return bar_->setCount(
            Grid::tr("%1 cannot be edited").arg(QString::fromStdString(context_.planned(column).design.heading)), true);
    if (!all) {
        const SourceRow row = cursor_.current() ? rows_.rowAt(cursor_.current()->line) : kNoRow;
        if (row != kNoRow) carryReplacing(column, {row}, find, with);
        step(1);
        return;
    }
    FindQuery query;
    query.parts.push_back({part.text, static_cast<std::size_t>(column)});
    context_.session().questions().find(
        query, [this, column, find, with](const Result<std::shared_ptr<const RecordSet>>& result) {
            if (!bar_ || !result) return;
            const Snapshot& snapshot = context_.snapshot();
            std::vector<SourceRow> rows;
            for (std::int64_t place = 0; place < snapshot.recordCount(); ++place)
                if ((*result)->contains(raw(snapshot.record(place)))) rows.push_back(snapshot.record(place));
            carryReplacing(column, rows, find, with);
        });
}

void FindControl::carryReplacing(int column, const std::vector<SourceRow>& rows, const QString& find,
                                 const QString& with) {
    BlockChange change = BlockEdit(context_, rows_).replaced(column, rows, find, with);
    if (change.isEmpty() && change.refused.empty()) return bar_->setCount(Grid::tr("nothing to replace"), true);
    carry_(std::move(change), Grid::tr("Replace"), [this](std::size_t cells) { replaced(cells); });
}

/// What is found is sought again, as it has other texts now; what the rest was hidden for stays in sight.
void FindControl::replaced(std::size_t cells) {
    if (!bar_) return;
    bar_->setCount(Grid::tr("%1 replaced").arg(grouped(cells)));
    context_.session().questions().find(query_, [this](const Result<std::shared_ptr<const RecordSet>>& result) {
        if (bar_ && result) found_ = *result;
    });
}

void FindControl::close() {
    if (bar_) {
        bar_->hide();
        bar_->deleteLater();
    }
    bar_ = nullptr;
    query_ = {};
    found_.reset();
    context_.session().view().setOnly(nullptr);
    context_.grid().setFocus(Qt::OtherFocusReason);
    context_.update();
}

void FindControl::findAgain() {
    if (bar_) find(bar_->entry()->text());
}

void FindControl::find(const QString& text) {
    query_ = findQuery(text.toStdString(), context_.plan());
    context_.update();
    if (query_.empty()) {
        found_.reset();
        context_.session().view().setOnly(nullptr);
        if (bar_) bar_->setCount({});
        return;
    }
    context_.session().questions().find(query_, [this](const Result<std::shared_ptr<const RecordSet>>& result) {
        if (!bar_ || !result) return;
        found_ = *result;
        if (bar_->hideRest()->isChecked()) context_.session().view().setOnly(found_);
        const SourceRow current = cursor_.current() ? rows_.rowAt(cursor_.current()->line) : kNoRow;
        if (!found_->contains(raw(current))) step(1);
        showCount();
    });
}

bool FindControl::step(int by) {
    if (!found_) return showCount(), false;
    const Snapshot& snapshot = context_.snapshot();
    const std::int64_t count = body_.columns().count() == 0 ? 0 : snapshot.recordCount();
    const auto current = cursor_.row() ? snapshot.placeOf(*cursor_.row()) : std::nullopt;
    const std::int64_t from = current ? *current : by > 0 ? count - 1 : 0;
    for (std::int64_t step = 1; step <= count; ++step) {
        const SourceRow row = snapshot.record(((from + by * step) % count + count) % count);
        if (!found_->contains(raw(row))) continue;
        show(row);
        break;
    }
    showCount();
    return true;
}

/// Makes the record current, in the first column that shows what is looked for.
void FindControl::show(SourceRow row) {
    context_.session().groups().openAround(row);
    const auto shown = context_.snapshot().lineOf(row);
    if (!shown) return;
    const std::int64_t line = raw(*shown);
    int column = cursor_.column();
    CellText cell;
    for (int i = 0; i < body_.columns().count(); ++i) {
        rows_.cell(line, i, cell);
        if (!query_.marks(static_cast<std::size_t>(i), lowered(cell.text))) continue;
        column = i;
        break;
    }
    choose_({line, column});
}

void FindControl::showCount() {
    if (!bar_) return;
    if (!found_) return bar_->setCount({});
    // Those up to the current one that are found; those that are filtered away do not count.
    std::int64_t all = 0, before = 0;
    const Snapshot& snapshot = context_.snapshot();
    const std::int64_t current = cursor_.row() ? snapshot.placeOf(*cursor_.row()).value_or(-1) : -1;
    for (std::int64_t place = 0; place < snapshot.recordCount(); ++place) {
        if (!found_->contains(raw(snapshot.record(place)))) continue;
        ++all;
        before += place <= current ? 1 : 0;
    }
    if (all == 0)
        return bar_->setCount(found_->count == 0 ? Grid::tr("nothing found")
                                                 : Grid::tr("%1, all filtered out").arg(grouped(found_->count)),
                              true);
    bar_->setCount(Grid::tr("%1 of %2").arg(grouped(std::max<std::int64_t>(1, before))).arg(grouped(all)));
}

}  // namespace jollyrow
