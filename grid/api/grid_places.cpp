// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_grid.cpp.
#include "grid/api/grid_places.h"

#include <QElapsedTimer>

#include "grid/api/grid.h"
#include "grid/filter/filter_row.h"
#include "grid/inside/grid_private.h"

namespace jollyrow {

QRect GridPlaces::heading(const QString& field) const {
    const auto column = d_->context.columnOf(field);
    if (!column) return {};
    return d_->headings.layout().columnRect(*column) & d_->body.roomOf(*column);
}

QRect GridPlaces::tier(const QString& name) const {
    const auto& tiers = d_->context.session().plan().tiers;
    for (std::size_t i = 0; i < tiers.size(); ++i)
        if (QString::fromStdString(tiers[i].design.name) == name)
            return d_->headings.layout().tierRect(static_cast<int>(i)) & d_->grid.viewport()->rect();
    return {};
}

QRect GridPlaces::fold(const QString& name) const {
    const auto& tiers = d_->context.session().plan().tiers;
    for (std::size_t i = 0; i < tiers.size(); ++i)
        if (QString::fromStdString(tiers[i].design.name) == name)
            return d_->headings.layout().foldRect(static_cast<int>(i));
    return {};
}

QRect GridPlaces::cell(std::int64_t line, const QString& field) const {
    const auto column = d_->context.columnOf(field);
    if (!column || line < 0 || line >= d_->rows.count()) return {};
    const QRect room = d_->body.roomOf(*column) &
                       QRect(0, d_->body.top(), d_->grid.viewport()->width(), d_->body.bottom() - d_->body.top());
    return d_->body.cellRect({line, *column}) & room;
}

QRect GridPlaces::figure(const QString& summary, std::optional<std::int64_t> line) const {
    const Grouping* grouping = groupingOf(*d_->context.session().snapshot());
    const GroupText* text = d_->rows.groupText();
    if (!grouping || !text) return {};
    std::vector<FigureText> figures;
    for (int column = 0; column < d_->body.columns().count(); ++column) {
        QRect row;
        if (line) {
            if (*line < 0 || *line >= d_->rows.count()) return {};
            text->figures(d_->rows.at(*line), column, figures);
            row = QRect(0, d_->body.places().top(*line), 1, d_->body.places().height(*line));
        } else {
            text->totals(TotalScope::Filtered, column, {}, figures);
            for (const TotalRow& total : d_->figures.totals.rows(d_->grid.viewport()->height()))
                if (total.scope == TotalScope::Filtered) row = QRect(0, total.y, 1, total.height);
        }
        for (std::size_t i = 0; i < figures.size(); ++i) {
            if (grouping->summaries[figures[i].summary].design.name != summary.toStdString()) continue;
            const int height = d_->painters.cells().groups().lineHeight();
            const int top = row.y() + (row.height() - 1 - static_cast<int>(figures.size()) * height) / 2;
            return QRect(d_->body.columns().x(column, d_->body.scrollX()), top + static_cast<int>(i) * height,
                         d_->body.columns().width(column), height) &
                   d_->body.roomOf(column);
        }
    }
    return {};
}

QRect GridPlaces::line(std::int64_t line) const {
    if (line < 0 || line >= d_->rows.count()) return {};
    for (const PinnedLine& sticky : d_->body.stickyLines())
        if (sticky.line == line) return {0, sticky.y, d_->grid.viewport()->width(), sticky.height};
    return QRect(0, d_->body.places().top(line), d_->grid.viewport()->width(), d_->body.places().height(line)) &
           QRect(0, d_->body.top(), d_->grid.viewport()->width(), d_->body.bottom() - d_->body.top());
}

QRect GridPlaces::filter(const QString& field) const {
    return d_->search.filters.row() && d_->search.filters.row()->isVisibleTo(&d_->grid)
               ? d_->search.filters.row()->cellRect(field)
               : QRect();
}

double GridPlaces::paintOnce(QPaintDevice& device) const {
    QElapsedTimer timer;
    timer.start();
    {
        QPainter painter(&device);
        d_->paint(painter, d_->grid.viewport()->rect());
    }
    return static_cast<double>(timer.nsecsElapsed()) / 1e6;
}

}  // namespace jollyrow
