// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_grid.cpp.
#include "grid/api/grid_selection.h"

#include <algorithm>
#include <limits>

#include "core/design/turned_records.h"
#include "core/formats/text_format.h"
#include "grid/api/grid.h"
#include "grid/inside/grid_private.h"
#include "grid/select/side_by_side.h"

namespace jollyrow {

Record GridSelection::current() const {
    return d_->cursor.current() ? d_->recordAt(d_->cursor.current()->line) : Record();
}

std::optional<CellPlace> GridSelection::currentCell() const { return d_->cursor.current(); }

void GridSelection::setCurrentCell(std::int64_t line, int column) {
    if (line < 0 || line >= d_->rows.count() || column < 0 || column >= d_->body.columns().count()) return;
    d_->navigator.choose({line, column}, SelectHow::Replace);
}

std::vector<Record> GridSelection::records(std::size_t most) const {
    std::vector<Record> records;
    for (const SourceRow row : d_->cursor.selection().rows().rows(most))
        records.emplace_back(d_->context.session().snapshot(), d_->context.session().refOf(row),
                             d_->context.session().sharedPlan());
    return records;
}

std::int64_t GridSelection::count() const { return d_->cursor.selection().rows().count(); }

std::vector<SourceRow> GridSelection::rows() const {
    return d_->cursor.selection().rows().rows(static_cast<std::size_t>(count()));
}

QString GridSelection::figures() const { return d_->figures.selected.words(); }

void GridSelection::copy(bool withHeadings) { d_->copySelection(withHeadings ? Headings::With : Headings::Without); }

Result<SummaryTable> GridSelection::sideBySide() const {
    const Session& session = d_->context.session();
    const auto& snapshot = session.snapshot();
    if (!snapshot) return Error{ErrorCode::NotFound, "Nothing is loaded yet."};
    std::vector<SourceRow> chosen = d_->cursor.selection().rows().rows(kMostTableColumns);
    const auto placeOf = [&](SourceRow row) {
        const auto line = snapshot->lineOf(row);
        return line ? raw(*line) : std::numeric_limits<std::int64_t>::max();
    };
    std::stable_sort(chosen.begin(), chosen.end(), [&](SourceRow a, SourceRow b) { return placeOf(a) < placeOf(b); });
    std::vector<NamedRecord> records;
    for (const SourceRow row : chosen) {
        NamedRecord& named = records.emplace_back(NamedRecord{row, {}});
        if (!snapshot->table->hasKeys()) continue;
        for (const Value& part : Record(snapshot, session.refOf(row), session.sharedPlan()).key()) {
            if (!named.name.empty()) named.name += " · ";
            appendPlain(named.name, part);
        }
    }
    return turnedRecords(*snapshot, session.plan(), session.design(), records);
}

bool GridSelection::openSideBySide() {
    Grid& grid = d_->grid;
    if (count() < 2) return false;
    const auto made = sideBySide();
    if (!made) {
        d_->context.say(QString::fromStdString(made.error().message));
        return false;
    }
    QWidget& viewport = d_->context.viewport();
    for (auto* open : viewport.findChildren<SideBySide*>()) open->close();
    auto* card = new SideBySide(*made, grid.look(), &viewport);
    QObject::connect(card, &FloatingCard::closed, &grid, [&grid] { grid.setFocus(); });
    card->openAt({24, d_->body.headerHeight(), 1, 1});
    return true;
}

void GridSelection::setMode(SelectionMode mode) {
    d_->grid.changeDesign([mode](Design& design) { design.grid.selection = mode; });
}

SelectionMode GridSelection::mode() const { return d_->context.design().grid.selection; }

bool GridSelection::goBack() { return d_->navigator.revisit(false); }

bool GridSelection::goForward() { return d_->navigator.revisit(true); }

void GridSelection::openGoTo() { d_->navigator.openGoTo(); }

bool GridSelection::show(const Record& record) {
    const auto row = record.isValid() ? d_->context.session().now(record.ref()) : std::nullopt;
    if (!row || d_->body.columns().count() == 0) return false;
    // One that has just been made is shown as soon as it is among the lines.
    if (const RecordFate* fate = d_->context.session().snapshot()->edits->fate(*row);
        fate && fate->change == RecordChange::Insert && !d_->context.session().snapshot()->placeOf(*row)) {
        d_->records.showWhenThere(*row);
        return true;
    }
    if (!d_->context.session().groups().openAround(*row)) return false;
    const auto line = d_->context.session().snapshot()->lineOf(*row);
    if (!line) return false;
    d_->navigator.choose({raw(*line), d_->cursor.current() ? d_->cursor.current()->column : 0}, SelectHow::Replace);
    return true;
}

void GridSelection::showLine(std::int64_t line) {
    if (d_->body.columns().count() == 0) return;
    const int column = std::clamp(d_->body.columns()
                                      .columnAt(d_->body.columns().extent(Zone::Scrolled).first + 1, d_->body.scrollX())
                                      .value_or(0),
                                  0, d_->body.columns().count() - 1);
    const int x = d_->body.scrollX();
    d_->scroller.show({line, column});
    d_->scroller.setX(x);
}

void GridSelection::showColumn(const QString& field) {
    if (const auto column = d_->context.columnOf(field)) d_->scroller.showColumn(*column);
}

}  // namespace jollyrow
