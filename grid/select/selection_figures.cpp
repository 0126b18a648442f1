// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_clipboard.cpp.
#include "grid/select/selection_figures.h"

#include <set>

#include "core/formats/text_format.h"
#include "grid/paint/grouped.h"

namespace jollyrow {
namespace {
constexpr int kRestMs = 60;
constexpr std::int64_t kMostCells = 1'000'000;  // what is gathered within a frame or two
}  // namespace

SelectionFigures::SelectionFigures(GridContext& context, const ShownRows& rows, const Cursor& cursor)
    : context_(context), rows_(rows), cursor_(cursor) {
    timer_.setSingleShot(true);
    timer_.setInterval(kRestMs);
    QObject::connect(&timer_, &QTimer::timeout, &timer_, [this] { ask(); });
}

/// Of selected records the cells of the current column.
std::vector<CellBlock> SelectionFigures::blocks() const {
    std::vector<CellBlock> all;
    const Selection& selection = cursor_.selection();
    const auto fieldOf = [&](int column) { return context_.planned(column).field; };
    const int columns = static_cast<int>(context_.plan().columns.size());
    if (selection.isOfCells()) {
        for (const Selection::Block& block : selection.blocks()) {
            CellBlock cells;
            for (int column = block.firstColumn; column < std::min(block.endColumn, columns); ++column)
                cells.fields.push_back(fieldOf(column));
            for (std::int64_t line = block.firstLine; line < block.endLine; ++line)
                if (rows_.isRecord(line)) cells.rows.push_back(rows_.rowAt(line));
            all.push_back(std::move(cells));
        }
        return all;
    }
    const auto current = selection.current();
    if (!current || current->column >= columns || selection.rows().count() < 2) return all;
    CellBlock cells{{}, {fieldOf(current->column)}};
    const Snapshot& snapshot = context_.snapshot();
    selection.rows().forEach([&](SourceRow row) {
        if (raw(row) < snapshot.table->rows) cells.rows.push_back(row);
    });
    all.push_back(std::move(cells));
    return all;
}

/// Before a cell is gathered.
bool SelectionFigures::isTooMuch() const {
    const Selection& selection = cursor_.selection();
    if (!selection.isOfCells()) return selection.rows().count() > kMostCells;
    std::int64_t cells = 0;
    for (const Selection::Block& block : selection.blocks())
        cells += (block.endLine - block.firstLine) * (block.endColumn - block.firstColumn);
    return cells > kMostCells;
}

void SelectionFigures::ask() {
    if (!rows_.view()) return say({});
    if (isTooMuch()) return say(Grid::tr("More than %1 cells are not summed up").arg(grouped(kMostCells)));
    std::vector<CellBlock> cells = blocks();
    std::size_t count = 0;
    std::set<FieldIndex> fields;
    for (const CellBlock& block : cells) {
        count += block.rows.size() * block.fields.size();
        fields.insert(block.fields.begin(), block.fields.end());
    }
    if (count < 2) return say({});
    std::shared_ptr<const Formatter> formatter;
    for (const PlannedColumn& column : context_.plan().columns)
        if (fields.size() == 1 && column.field == *fields.begin() && !column.formatter->isMessage())
            formatter = column.formatter;
    context_.session().questions().figuresOfCells(std::move(cells),
                                                  [this, formatter](const Result<CellFigures>& figures) {
                                                      if (figures) say(wordsOf(*figures, formatter.get()));
                                                  });
}

QString SelectionFigures::wordsOf(const CellFigures& figures, const Formatter* formatter) const {
    const auto shown = [&](const Value& value) {
        std::string text;
        if (formatter)
            formatter->append(text, value);
        else
            appendDisplay(text, value, {});
        return QString::fromStdString(text);
    };
    QStringList words{Grid::tr("%1 cells").arg(grouped(figures.cells))};
    if (figures.filled != figures.cells) words << Grid::tr("%1 filled").arg(grouped(figures.filled));
    if (figures.numbers != 0) {
        if (figures.numbers != figures.filled) words << Grid::tr("%1 numbers").arg(grouped(figures.numbers));
        words << (isEmpty(figures.sum) ? Grid::tr("sum too large") : Grid::tr("sum %1").arg(shown(figures.sum)));
        if (!isEmpty(figures.mean)) words << Grid::tr("mean %1").arg(shown(figures.mean));
    }
    if (!isEmpty(figures.least)) {
        words << Grid::tr("least %1").arg(shown(figures.least));
        words << Grid::tr("largest %1").arg(shown(figures.largest));
    }
    return words.join(QStringLiteral("  ·  "));
}

void SelectionFigures::say(const QString& words) {
    if (words == words_) return;
    words_ = words;
    Q_EMIT context_.grid().selectionFigured(words);
}

}  // namespace jollyrow
