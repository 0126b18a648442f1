// SPDX-License-Identifier: MIT
// Finding records: the bar asks, the session searches on its worker, the painter marks the cells, and the current cell
// goes from one found record to the next.
#include <QCheckBox>
#include <QLineEdit>

#include "core/rules/utf8.h"
#include "grid/find/find_bar.h"
#include "grid/inside/grid_p.h"

namespace jollyrow {

void GridPrivate::openFind(const QString& text) {
    if (!findBar) {
        findBar = new FindBar(grid.viewport(), look());
        findBar->setFont(grid.font());
        QObject::connect(findBar, &FindBar::typed, &grid, [this](const QString& typed) { find(typed); });
        QObject::connect(findBar, &FindBar::stepped, &grid, [this](int by) { stepFound(by); });
        QObject::connect(findBar, &FindBar::restHidden, &grid,
                         [this](bool hidden) { session->setOnly(hidden ? foundSet : nullptr); });
        QObject::connect(findBar, &FindBar::closed, &grid, [this] { closeFind(); });
    }
    if (!text.isEmpty()) findBar->entry()->setText(text);
    findBar->openIn(grid.viewport()->rect().adjusted(0, headerHeight(), 0, 0));
}

void GridPrivate::closeFind() {
    if (findBar) {
        findBar->hide();
        findBar->deleteLater();
    }
    findBar = nullptr;
    findQueryNow = {};
    foundSet.reset();
    session->setOnly(nullptr);
    grid.setFocus(Qt::OtherFocusReason);
    grid.viewport()->update();
}

void GridPrivate::find(const QString& text) {
    findQueryNow = findQuery(text.toStdString(), session->plan());
    grid.viewport()->update();
    if (findQueryNow.empty()) {
        foundSet.reset();
        session->setOnly(nullptr);
        if (findBar) findBar->setCount({});
        return;
    }
    session->find(findQueryNow, [this](const Result<std::shared_ptr<const RecordSet>>& result) {
        if (!findBar || !result) return;
        foundSet = *result;
        if (findBar->hideRest()->isChecked()) session->setOnly(foundSet);
        const auto current = selection.current();
        const bool onOne = current && lines && current->line < lines->lineCount() &&
                           foundSet->contains(raw(lines->rowAt(static_cast<ViewLine>(current->line))));
        if (!onOne) stepFound(1);
        showFoundCount();
    });
}

/// The next found line after the current one, round the end.
void GridPrivate::stepFound(int by) {
    if (!foundSet || !lines || session->snapshot()->recordCount() == 0 || columns.count() == 0) return showFoundCount();
    const std::int64_t count = session->snapshot()->recordCount();
    const auto current = currentRow ? session->snapshot()->placeOf(*currentRow) : std::nullopt;
    const std::int64_t from = current ? *current : by > 0 ? count - 1 : 0;
    for (std::int64_t step = 1; step <= count; ++step) {
        const SourceRow row = session->snapshot()->record(((from + by * step) % count + count) % count);
        if (!foundSet->contains(raw(row))) continue;
        session->openGroupsAround(row);
        const auto shown = session->snapshot()->lineOf(row);
        if (!shown) break;
        const std::int64_t line = raw(*shown);
        int column = selection.current() ? selection.current()->column : 0;
        CellText cell;
        for (int i = 0; i < columns.count(); ++i) {
            lines->cell(static_cast<ViewLine>(line), i, cell);
            if (!findQueryNow.marks(static_cast<std::size_t>(i), lowered(cell.text))) continue;
            column = i;
            break;
        }
        choose({line, column}, SelectHow::Replace);
        break;
    }
    showFoundCount();
}

void GridPrivate::showFoundCount() {
    if (!findBar) return;
    if (!foundSet) return findBar->setCount({});
    // Lines up to the current one that are found; those that are filtered away do not count.
    std::int64_t all = 0, before = 0;
    const Snapshot& snapshot = *session->snapshot();
    const std::int64_t current = currentRow ? snapshot.placeOf(*currentRow).value_or(-1) : -1;
    for (std::int64_t place = 0; place < snapshot.recordCount(); ++place) {
        if (!foundSet->contains(raw(snapshot.record(place)))) continue;
        ++all;
        before += place <= current ? 1 : 0;
    }
    if (all == 0)
        return findBar->setCount(
            foundSet->count == 0 ? Grid::tr("nothing found") : Grid::tr("%L1, all filtered out").arg(foundSet->count),
            true);
    findBar->setCount(Grid::tr("%L1 of %L2").arg(std::max<std::int64_t>(1, before)).arg(all));
}

}  // namespace jollyrow
