// SPDX-License-Identifier: MIT
#include "grid/select/clipboard.h"

#include <algorithm>
#include <utility>

namespace jollyrow {
namespace {

constexpr std::int64_t kMostCopied = 100'000;  // records one copy takes

/// Appends the columns [first, end) of one line; `read` puts a column's text into `cell`.
template <class Read>
void appendLine(QString& out, const ViewPlan& plan, const std::vector<std::string>& only, int first, int end,
                const CellText& cell, const Read& read) {
    bool isFirst = true;
    for (int column = first; column < end; ++column) {
        const std::string& field = plan.columns[static_cast<std::size_t>(column)].design.field;
        if (!only.empty() && std::find(only.begin(), only.end(), field) == only.end()) continue;
        read(column);
        QString text = QString::fromUtf8(cell.text);
        text.replace(u'\t', u' ').replace(u'\n', u' ');
        out += (std::exchange(isFirst, false) ? QString() : QStringLiteral("\t")) + text;
    }
    out += u'\n';
}

}  // namespace

QString copied(const Selection& selection, const ShownRows& rows, const Snapshot& snapshot, const ViewPlan& plan,
               const std::vector<std::string>& only) {
    QString out;
    CellText cell;
    if (selection.mode() == SelectionMode::Cells) {
        for (const Selection::Block& block : selection.blocks())
            for (std::int64_t line = block.firstLine; line < std::min(block.endLine, block.firstLine + kMostCopied);
                 ++line)
                appendLine(out, plan, only, block.firstColumn, block.endColumn, cell,
                           [&](int column) { rows.cell(line, column, cell); });
        return out;
    }
    const std::int64_t most = std::min(kMostCopied, selection.rows().count());
    for (std::int64_t place = 0, done = 0; place < snapshot.recordCount() && done < most; ++place) {
        const SourceRow row = snapshot.record(place);
        if (!selection.isRowSelected(row)) continue;
        appendLine(out, plan, only, 0, static_cast<int>(plan.columns.size()), cell,
                   [&](int column) { readCell(snapshot, row, plan.columns[static_cast<std::size_t>(column)], cell); });
        ++done;
    }
    return out;
}

}  // namespace jollyrow
