// SPDX-License-Identifier: MIT
#include "grid/groups/totals.h"

#include "grid/paint/axis_painter.h"
#include "grid/paint/grouped.h"

namespace jollyrow {
namespace {
constexpr int kStrongLine = 2;  // above the totals
constexpr int kAir = 12;
}  // namespace

std::vector<TotalScope> Totals::scopes() const {
    std::vector<TotalScope> scopes;
    const GroupText* text = rows_.groupText();
    if (!text || !text->hasTotals()) return scopes;
    const GridDesign& design = context_.design().grid;
    if (design.totalSelected) scopes.push_back(TotalScope::Selected);
    if (design.totalFiltered) scopes.push_back(TotalScope::Filtered);
    if (design.totalAll) scopes.push_back(TotalScope::All);
    return scopes;
}

int Totals::rowHeight() const {
    const GroupText* text = rows_.groupText();
    const int lines = text ? text->totalLines() : 1;
    const GridDesign& design = context_.design().grid;
    return std::max(design.totalHeight > 0 ? design.totalHeight : painters_.rowHeight(design) + 2,
                    lines * painters_.cells().groups().lineHeight() + kAir);
}

int Totals::height() const {
    const auto rows = static_cast<int>(scopes().size());
    return axisHeight() + (rows == 0 ? 0 : rows * rowHeight() + kStrongLine);
}

int Totals::axisHeight() const { return rows_.view() ? AxisPainter::height(context_.plan()) : 0; }

std::optional<int> Totals::axisTop(int viewportHeight) const {
    return axisHeight() == 0 ? std::nullopt : std::optional(viewportHeight - height());
}

QString Totals::captionOf(TotalScope scope) const {
    const Snapshot& snapshot = context_.snapshot();
    const QString things = QString::fromStdString(context_.schema().name);
    if (scope == TotalScope::Selected) return Grid::tr("%1 selected").arg(grouped(cursor_.selection().rows().count()));
    if (scope == TotalScope::Filtered && snapshot.filter.rowsOut != snapshot.source.rowsOut)
        return Grid::tr("%1 of %2 %3").arg(grouped(snapshot.filter.rowsOut), grouped(snapshot.source.rowsOut), things);
    return Grid::tr("All %1").arg(things);
}

std::vector<TotalRow> Totals::rows(int viewportHeight) const {
    std::vector<TotalRow> rows;
    int y = viewportHeight - height() + axisHeight() + kStrongLine;
    for (const TotalScope scope : scopes()) {
        const int tall = rowHeight();
        rows.push_back({scope, captionOf(scope), y, tall});
        y += tall;
    }
    return rows;
}

void Totals::sumUpSelection() {
    const GroupText* text = rows_.groupText();
    const bool wanted =
        context_.design().grid.totalSelected && text && text->hasTotals() && !cursor_.selection().isOfCells();
    if (!wanted) return;
    context_.session().questions().figuresOf(cursor_.selection().rows().rows(context_.snapshot().table->rows),
                                             [this](const Result<std::vector<EvaluatedCell>>& figures) {
                                                 if (!figures) return;
                                                 ofSelected_ = *figures;
                                                 context_.update();
                                             });
}

}  // namespace jollyrow
