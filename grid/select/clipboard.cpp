// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_clipboard.cpp.
#include "grid/select/clipboard.h"

#include <QMimeData>

#include <algorithm>
#include <utility>

namespace jollyrow {
namespace {

const QString kOwnType = QStringLiteral("application/x-jollyrow-cells");

QString quoted(QString text) { return u'"' + text.replace(u'"', QStringLiteral("\"\"")) + u'"'; }

QString asPlain(const QString& text) {
    const bool isOdd = text.contains(u'\t') || text.contains(u'\n') || text.contains(u'\r') || text.startsWith(u'"');
    return isOdd ? quoted(text) : text;
}

QString asCsv(const QString& text) {
    const bool isOdd = text.contains(u',') || text.contains(u'\n') || text.contains(u'\r') || text.contains(u'"') ||
                       text.startsWith(u' ') || text.endsWith(u' ');
    return isOdd ? quoted(text) : text;
}

/// Writes line after line in all forms.
class CopyWriter {
  public:
    CopyWriter(const Snapshot& snapshot, const ViewPlan& plan, const std::vector<std::string>& only)
        : snapshot_(snapshot), plan_(plan), only_(only) {
        out_.html = QStringLiteral("<meta charset=\"utf-8\"><table>");
    }
    bool isWanted(int column) const {
        const std::string& field = planned(column).design.field;
        return only_.empty() || std::find(only_.begin(), only_.end(), field) != only_.end();
    }
    void headings(int first, int end) {
        line(first, end, "th", [&](int column) { return QString::fromStdString(planned(column).design.heading); });
    }
    /// A line of `row`; kNoRow when it is no record.
    template <class Read>
    void record(SourceRow row, int first, int end, const Read& read) {
        bool isFirst = true;
        line(first, end, "td", [&](int column) {
            read(column);
            QString text = QString::fromUtf8(cell.text);
            const PlannedColumn& at = planned(column);
            if (!std::exchange(isFirst, false)) out_.own += u'\t';
            out_.own += asPlain(
                row == kNoRow || isShownAsEdited(at) ? text : QString::fromStdString(editedText(snapshot_, row, at)));
            return text;
        });
        out_.own += u'\n';
        ++out_.records;
    }
    Copied done(std::int64_t leftOut) {
        out_.html += QStringLiteral("</table>");
        out_.leftOut = leftOut;
        return std::move(out_);
    }
    CellText cell;

  private:
    const PlannedColumn& planned(int column) const { return plan_.columns[static_cast<std::size_t>(column)]; }
    template <class TextOf>
    void line(int first, int end, const char* tag, const TextOf& textOf) {
        out_.html += QStringLiteral("<tr>");
        bool isFirst = true;
        for (int column = first; column < end; ++column) {
            if (!isWanted(column)) continue;
            const QString text = textOf(column);
            if (!std::exchange(isFirst, false)) {
                out_.text += u'\t';
                out_.csv += u',';
            }
            out_.text += asPlain(text);
            out_.csv += asCsv(text);
            const Alignment side = planned(column).alignment;
            out_.html += QStringLiteral("<%1%2>%3</%1>")
                             .arg(QLatin1String(tag),
                                  side == Alignment::Right    ? QStringLiteral(" align=\"right\"")
                                  : side == Alignment::Center ? QStringLiteral(" align=\"center\"")
                                                              : QString(),
                                  text.toHtmlEscaped().replace(u'\n', QStringLiteral("<br>")));
        }
        out_.text += u'\n';
        out_.csv += QStringLiteral("\r\n");
        out_.html += QStringLiteral("</tr>");
    }

    const Snapshot& snapshot_;
    const ViewPlan& plan_;
    const std::vector<std::string>& only_;
    Copied out_;
};

}  // namespace

std::unique_ptr<QMimeData> Copied::mimeData() const {
    auto data = std::make_unique<QMimeData>();
    data->setText(text);
    data->setData(QStringLiteral("text/csv"), csv.toUtf8());
    data->setHtml(html);
    if (own != text) data->setData(kOwnType, own.toUtf8());
    return data;
}

QString textToPaste(const QMimeData& data) {
    return data.hasFormat(kOwnType) ? QString::fromUtf8(data.data(kOwnType)) : data.text();
}

Copied copied(const Selection& selection, const ShownRows& rows, const Snapshot& snapshot, const ViewPlan& plan,
              const std::vector<std::string>& only, Headings headings) {
    CopyWriter writer(snapshot, plan, only);
    std::int64_t left = Copied::kMostRecords, leftOut = 0;
    if (selection.isOfCells()) {
        for (const Selection::Block& block : selection.blocks()) {
            if (headings == Headings::With) writer.headings(block.firstColumn, block.endColumn);
            const std::int64_t end = std::min(block.endLine, block.firstLine + left);
            for (std::int64_t line = block.firstLine; line < end; ++line)
                writer.record(rows.isRecord(line) ? rows.rowAt(line) : kNoRow, block.firstColumn, block.endColumn,
                              [&](int column) { rows.cell(line, column, writer.cell); });
            left -= end - block.firstLine;
            leftOut += block.endLine - end;
        }
        return writer.done(leftOut);
    }
    const int columns = static_cast<int>(plan.columns.size());
    if (headings == Headings::With && selection.rows().count() != 0) writer.headings(0, columns);
    // Selected records that the filter leaves out now are not copied.
    for (std::int64_t place = 0; place < snapshot.recordCount(); ++place) {
        const SourceRow row = snapshot.record(place);
        if (!selection.isRowSelected(row)) continue;
        if (left == 0) {
            ++leftOut;
            continue;
        }
        writer.record(row, 0, columns, [&](int column) {
            readCell(snapshot, row, plan.columns[static_cast<std::size_t>(column)], writer.cell);
        });
        --left;
    }
    return writer.done(leftOut);
}

}  // namespace jollyrow
