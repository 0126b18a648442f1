// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_block_edit.cpp.
#include "grid/select/block_edit.h"

#include "grid/paint/grouped.h"

#include <algorithm>

#include "core/columns/wide_decimal.h"

namespace jollyrow {

std::vector<std::vector<QString>> cellsOf(const QString& text) {
    std::vector<std::vector<QString>> lines(1);
    QString cell;
    bool isQuoted = false, began = false;
    const auto endCell = [&] {
        lines.back().push_back(std::exchange(cell, {}));
        began = false;
    };
    for (qsizetype i = 0; i < text.size(); ++i) {
        const QChar c = text[i];
        if (isQuoted) {
            if (c != u'"')
                cell += c;
            else if (i + 1 < text.size() && text[i + 1] == u'"')
                cell += text[++i];
            else
                isQuoted = false;
        } else if (c == u'"' && !began) {
            isQuoted = began = true;
        } else if (c == u'\t') {
            endCell();
        } else if (c == u'\n') {
            endCell();
            lines.emplace_back();
        } else if (c != u'\r') {
            cell += c;
            began = true;
        }
    }
    if (began || !cell.isEmpty() || !lines.back().empty())
        endCell();
    else
        lines.pop_back();  // the last line's end
    return lines;
}

/// Selected cells line by line; of selected records those of the current column.
std::vector<std::vector<BlockEdit::Target>> BlockEdit::targetsOf(const Selection& selection) const {
    std::vector<std::vector<Target>> targets;
    if (selection.isOfCells()) {
        for (const Selection::Block& block : selection.blocks())
            for (std::int64_t line = block.firstLine; line < block.endLine && targets.size() < kMostCells; ++line) {
                if (!rows_.isRecord(line)) continue;
                auto& cells = targets.emplace_back();
                for (int column = block.firstColumn; column < block.endColumn; ++column)
                    cells.push_back({line, rows_.rowAt(line), column});
            }
        return targets;
    }
    const auto current = selection.current();
    if (!current) return targets;
    const Snapshot& snapshot = context_.snapshot();
    std::int64_t left = selection.rows().count();
    for (std::int64_t place = 0; left > 0 && place < snapshot.recordCount(); ++place) {
        const SourceRow row = snapshot.record(place);
        if (!selection.isRowSelected(row)) continue;
        targets.push_back({{place, row, current->column}});
        --left;
    }
    if (targets.empty() && rows_.isRecord(current->line))
        targets.push_back({{current->line, rows_.rowAt(current->line), current->column}});
    return targets;
}

/// What a look-up shows stands for a record that only the database knows for sure.
bool BlockEdit::isName(int column, const QString& text) const {
    return context_.planned(column).label && !text.isEmpty();
}

/// As if it had been typed; of a choice only what there is to choose.
Result<Value> BlockEdit::parsed(int column, const QString& text) const {
    const PlannedColumn& planned = context_.planned(column);
    return planned.formatter->parse(text.toStdString(), context_.schema().field(planned.field));
}

void BlockEdit::set(const Target& target, const QString& text, Value value, std::string label,
                    BlockChange& change) const {
    if (!context_.canEdit(target.column)) return void(++change.tooMany);
    change.cells.push_back({target.row, context_.planned(target.column).field, std::move(value), std::move(label)});
    change.origins.push_back({target.line, text});
}

void BlockEdit::refuse(std::int64_t line, int column, const QString& text, const QString& why,
                       BlockChange& change) const {
    change.refused.push_back({line, QString::fromStdString(context_.planned(column).design.heading), text, why});
}

/// What a check forbids is refused, all of it looked at together.
BlockChange BlockEdit::checked(BlockChange change) const {
    if (!change.named.empty()) return change;  // when it is known what they stand for
    if (context_.design().grid.keepsDrafts || change.cells.empty()) return change;
    const auto problems = context_.session().checks().problemsWith(change.cells);
    std::vector<CellWrite> cells;
    for (std::size_t i = 0; i < change.cells.size(); ++i) {
        if (!problems[i] || problems[i]->isWarning) {
            cells.push_back(std::move(change.cells[i]));
            continue;
        }
        const std::string& field = context_.schema().field(change.cells[i].field).name;
        const auto column = context_.columnOf(QString::fromStdString(field));
        refuse(change.origins[i].line, column.value_or(0), change.origins[i].text,
               QString::fromStdString(problems[i]->message), change);
    }
    change.cells = std::move(cells);
    change.origins.clear();
    return change;
}

void BlockEdit::write(const Target& target, const QString& text, BlockChange& change) const {
    if (!context_.canEdit(target.column)) return void(++change.tooMany);
    if (isName(target.column, text))
        return void(change.named.push_back({target.line, target.row, 0, target.column, text}));
    auto value = parsed(target.column, text);
    if (value)
        set(target, text, std::move(*value), {}, change);
    else
        refuse(target.line, target.column, text, QString::fromStdString(value.error().message), change);
}

void BlockEdit::makeRecord(const std::vector<QString>& texts, int firstColumn, std::int64_t line,
                           BlockChange& change) const {
    NewRecord record;
    bool isNamed = false;
    for (std::size_t i = 0; i < texts.size(); ++i) {
        const int column = firstColumn + static_cast<int>(i);
        if (column >= static_cast<int>(context_.plan().columns.size()) || !context_.canEdit(column)) {
            ++change.tooMany;
            continue;
        }
        if (isName(column, texts[i])) {
            change.named.push_back({line, kNoRow, change.records.size(), column, texts[i]});
            isNamed = true;
            continue;
        }
        auto value = parsed(column, texts[i]);
        if (!value)
            refuse(line, column, texts[i], QString::fromStdString(value.error().message), change);
        else if (!jollyrow::isEmpty(*value))
            record.emplace_back(context_.planned(column).field, std::move(*value));
    }
    if (!record.empty() || isNamed) change.records.push_back(std::move(record));
}

Result<BlockChange> BlockEdit::pasted(const QString& text, CellPlace from, const Selection& selection,
                                      bool makesRecords) const {
    const auto lines = cellsOf(text);
    std::size_t count = 0;
    for (const auto& line : lines) count += line.size();
    if (count > kMostCells)
        return Error{ErrorCode::InvalidInput,
                     Grid::tr("%1 cells are on the clipboard; at most %2 are pasted at once. Nothing was pasted.")
                         .arg(grouped(count))
                         .arg(grouped(kMostCells))
                         .toStdString()};
    BlockChange change;
    if (lines.size() == 1 && lines.front().size() == 1) {
        for (const auto& targets : targetsOf(selection))
            for (const Target& target : targets) write(target, lines.front().front(), change);
        return checked(std::move(change));
    }
    const auto columns = static_cast<int>(context_.plan().columns.size());
    std::int64_t line = from.line;
    for (const auto& texts : lines) {
        while (rows_.has(line) && !rows_.isRecord(line)) ++line;  // lines of groups are passed over
        if (!rows_.has(line)) {
            makesRecords ? makeRecord(texts, from.column, line, change) : void(change.tooMany += texts.size());
            ++line;
            continue;
        }
        for (std::size_t i = 0; i < texts.size(); ++i) {
            const int column = from.column + static_cast<int>(i);
            if (column >= columns)
                ++change.tooMany;
            else
                write({line, rows_.rowAt(line), column}, texts[i], change);
        }
        ++line;
    }
    return checked(std::move(change));
}

BlockChange BlockEdit::resolved(BlockChange change, const NamedByColumn& names) const {
    for (const BlockChange::Named& named : std::exchange(change.named, {})) {
        const auto column = names.find(named.column);
        const auto record = column == names.end() ? Error{ErrorCode::NotFound, "The database was not asked."}
                            : !column->second     ? column->second.error()
                                                  : column->second->called(named.text.toStdString());
        if (!record)
            refuse(named.line, named.column, named.text, QString::fromStdString(record.error().message), change);
        else if (named.row == kNoRow)
            change.records[named.record].emplace_back(context_.planned(named.column).field, record->key);
        else
            set({named.line, named.row, named.column}, named.text, record->key, record->label, change);
    }
    std::erase_if(change.records, [](const NewRecord& record) { return record.empty(); });
    return checked(std::move(change));
}

BlockChange BlockEdit::cleared(const Selection& selection) const {
    BlockChange change;
    for (const auto& targets : targetsOf(selection))
        for (const Target& target : targets) set(target, {}, Empty{}, {}, change);
    return checked(std::move(change));
}

BlockChange BlockEdit::replaced(int column, const std::vector<SourceRow>& rows, const QString& find,
                                const QString& with) const {
    BlockChange change;
    if (find.isEmpty()) return change;
    const Snapshot& snapshot = context_.snapshot();
    for (const SourceRow row : rows) {
        // The field's own text: what a format or a face puts around it is no part of the value.
        const QString text = QString::fromStdString(editedText(snapshot, row, context_.planned(column)));
        if (!text.contains(find, Qt::CaseInsensitive)) continue;
        const auto place = snapshot.placeOf(row);
        write({place.value_or(0), row, column}, QString(text).replace(find, with, Qt::CaseInsensitive), change);
    }
    return checked(std::move(change));
}

BlockChange BlockEdit::filledDown(const Selection& selection) const {
    BlockChange change;
    const auto lines = targetsOf(selection);
    const Snapshot& snapshot = context_.snapshot();
    for (std::size_t n = 1; n < lines.size(); ++n)
        for (std::size_t i = 0; i < std::min(lines[n].size(), lines[0].size()); ++i) {
            const Target &first = lines[0][i], &target = lines[n][i];
            const FieldIndex field = context_.planned(target.column).field;
            const CellEdit* edit = snapshot.edits->find(first.row, field);
            set(target, {}, snapshot.value(first.row, field), edit ? edit->label : std::string(), change);
        }
    return checked(std::move(change));
}

namespace {

/// The value `n` steps on from the first, by the step between the first two; nullopt for values without steps.
std::optional<Value> stepped(const Value& first, const Value& second, std::int64_t n) {
    const auto step = [&](auto a, auto b) { return a + (b - a) * static_cast<decltype(a)>(n); };
    if (const auto* a = std::get_if<std::int64_t>(&first), *b = std::get_if<std::int64_t>(&second); a && b) {
        std::int64_t by = 0, way = 0, sum = 0;
        if (__builtin_sub_overflow(*b, *a, &by) || __builtin_mul_overflow(by, n, &way) ||
            __builtin_add_overflow(*a, way, &sum))
            return std::nullopt;
        return Value(sum);
    }
    if (const auto* a = std::get_if<Date>(&first), *b = std::get_if<Date>(&second); a && b) {
        const std::int64_t days = step(std::int64_t{a->days}, std::int64_t{b->days});
        if (days != static_cast<std::int32_t>(days)) return std::nullopt;
        return Value(Date{static_cast<std::int32_t>(days)});
    }
    if (const auto* a = std::get_if<Timestamp>(&first), *b = std::get_if<Timestamp>(&second); a && b)
        return Value(Timestamp{step(a->micros, b->micros)});
    if (const auto* a = std::get_if<double>(&first), *b = std::get_if<double>(&second); a && b)
        return Value(step(*a, *b));
    const auto a = exactOf(first), b = exactOf(second);
    if (!a || !b) return std::nullopt;
    const auto by = added(*b, {-a->mantissa, a->scale});
    const auto way = by ? multiplied(*by, {n, 0}) : std::nullopt;
    const auto sum = way ? added(*a, *way) : std::nullopt;
    return sum ? std::optional(narrowest(*sum)) : std::nullopt;
}

}  // namespace

BlockChange BlockEdit::filledSeries(const Selection& selection) const {
    BlockChange change;
    const auto lines = targetsOf(selection);
    const Snapshot& snapshot = context_.snapshot();
    for (std::size_t n = 2; n < lines.size(); ++n)
        for (std::size_t i = 0; i < std::min({lines[n].size(), lines[0].size(), lines[1].size()}); ++i) {
            const Target& target = lines[n][i];
            const FieldIndex field = context_.planned(target.column).field;
            auto next = stepped(snapshot.value(lines[0][i].row, field), snapshot.value(lines[1][i].row, field),
                                static_cast<std::int64_t>(n));
            if (next)
                set(target, {}, std::move(*next), {}, change);
            else
                refuse(target.line, target.column, {}, Grid::tr("There is no step from the first value to the second."),
                       change);
        }
    return checked(std::move(change));
}

}  // namespace jollyrow
