// SPDX-License-Identifier: MIT
#include "grid/select/navigator.h"

#include <QTimer>

#include "core/formats/text_format.h"

namespace jollyrow {
namespace {
constexpr int kTypeAheadMs = 900;
constexpr std::int64_t kSearchedAtOnce = 50'000;  // lines a typed jump looks at in one turn: less than a frame
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
    searchAhead(*cursor_.current(), goesOn ? 0 : 1, ++search_);
}

/// All lines once around, some in each turn, so that the window answers in between.
void Navigator::searchAhead(CellPlace from, std::int64_t first, int search) {
    if (search != search_ || !rows_.view() || from.column >= body_.columns().count()) return;
    const std::int64_t count = rows_.count(), end = std::min(count, first + kSearchedAtOnce);
    CellText cell;
    for (std::int64_t step = first; step < end; ++step) {
        const std::int64_t line = (from.line + step) % count;
        rows_.cell(line, from.column, cell);
        if (!QString::fromUtf8(cell.text).startsWith(typedAhead_, Qt::CaseInsensitive)) continue;
        if (goTo_) goTo_->setWrong({});
        return choose({line, from.column}, SelectHow::Replace);
    }
    if (end < count)
        QTimer::singleShot(0, &context_.grid(), [this, from, end, search] { searchAhead(from, end, search); });
    else if (goTo_ && goTo_->by() == GoToEntry::By::Beginning)
        goTo_->setWrong(Grid::tr("No value here begins so."));
}

void Navigator::closeGoTo() {
    if (!goTo_) return;
    GoToEntry* closing = goTo_;
    goTo_ = nullptr;
    closing->hide();
    closing->deleteLater();
    context_.grid().setFocus();
}

namespace {
/// What the key fields of a table are called; "" when records have no key that a person could type.
QString keyWords(const Table& table, const Design& design) {
    QStringList words;
    for (const FieldIndex field : table.keyFields)
        words << QString::fromStdString(design.headingOf(table.schema.field(field).name));
    return words.join(QStringLiteral(", "));
}

/// "12" or "12, Mon", by field.
std::optional<RecordKey> keyFrom(const QString& typed, const Table& table) {
    const QStringList parts = table.keyFields.size() == 1 ? QStringList{typed} : typed.split(u',');
    if (static_cast<std::size_t>(parts.size()) != table.keyFields.size()) return std::nullopt;
    RecordKey key;
    for (std::size_t i = 0; i < table.keyFields.size(); ++i) {
        auto value =
            parseTyped(parts[static_cast<int>(i)].trimmed().toStdString(), table.schema.field(table.keyFields[i]));
        if (!value) return std::nullopt;
        key.push_back(std::move(*value));
    }
    return key;
}
}  // namespace

void Navigator::goToKey(const QString& typed) {
    Grid& grid = context_.grid();
    const Snapshot& snapshot = context_.snapshot();
    const auto key = keyFrom(typed, *snapshot.table);
    const Record record = key ? grid.records().find(*key) : Record();
    if (!goTo_) return;
    if (!record.isValid()) return goTo_->setWrong(Grid::tr("No record here has this key."));
    if (!snapshot.placeOf(record.row())) return goTo_->setWrong(Grid::tr("This record is filtered out."));
    if (!hooks_.mayLeave()) return;
    closeGoTo();
    grid.selection().show(record);
}

void Navigator::openGoTo(GoToEntry::By by) {
    if (rows_.count() == 0 || body_.columns().count() == 0 || !hooks_.mayLeave()) return;
    delete goTo_;
    GoToEntry::Offer offer{rows_.count(), keyWords(*context_.snapshot().table, context_.design()), {}};
    if (cursor_.current()) offer.column = QString::fromStdString(context_.planned(cursor_.column()).design.heading);
    goTo_ = new GoToEntry(offer, by, &context_.viewport());
    Grid* grid = &context_.grid();
    QObject::connect(goTo_, &GoToEntry::closed, grid, [this] { closeGoTo(); });
    QObject::connect(goTo_, &GoToEntry::lineChosen, grid, [this, grid](std::int64_t line) {
        closeGoTo();
        grid->selection().setCurrentCell(line, cursor_.column());
    });
    QObject::connect(goTo_, &GoToEntry::keyChosen, grid, [this](const QString& typed) { goToKey(typed); });
    QObject::connect(goTo_, &GoToEntry::beginningTyped, grid, [this](const QString& typed, bool next) {
        typedAhead_ = typed;
        if (cursor_.current() && !typed.isEmpty()) searchAhead(*cursor_.current(), next ? 1 : 0, ++search_);
    });
    goTo_->openIn(context_.viewport().rect().adjusted(0, body_.top(), 0, 0));
}

}  // namespace jollyrow
