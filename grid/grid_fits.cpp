// SPDX-License-Identifier: MIT
// Widths that headings and values need. Sampled while one works; exactly on demand.
//
// Exactly, without formatting a million values: the width of a text depends on few things. Figures are all as wide as
// each other, so of numbers the ones with the most digits stand for all, per sign and number of decimals; days are
// formatted once each; texts of a dictionary once each; of other texts only those that could be wider than the widest so
// far, by their number of bytes. Bench: bench/paint_bench.cpp ("fit all").
#include <QTimer>

#include <cmath>
#include <map>
#include <set>

#include "grid/grid_p.h"

namespace jollyrow {
namespace {

// Lines measured for a fit: the first, and as many spread over the rest; while loading about what is in sight.
constexpr std::int64_t kFitSample = 150;
constexpr std::int64_t kFitWhileLoading = 40;
constexpr std::size_t kManyColumns = 60;  // so many share the time that fifteen take
constexpr std::size_t kMostMeasuredBytes = 200;
constexpr std::size_t kMostDays = 20000;

int digitsOf(std::int64_t value) {
    int digits = 1;
    for (std::uint64_t rest = value < 0 ? 0 - static_cast<std::uint64_t>(value) : static_cast<std::uint64_t>(value); rest >= 10; rest /= 10) ++digits;
    return digits;
}
int zerosAtEnd(std::int64_t value) {
    int zeros = 0;
    for (; value != 0 && value % 10 == 0 && zeros < 18; value /= 10) ++zeros;
    return zeros;
}

/// Rows whose values are as wide as any of the column, when figures are of one width.
std::vector<SourceRow> widestIntegers(const Column& column) {
    std::map<std::pair<int, bool>, std::pair<int, SourceRow>> best;  // digits and sign -> fewest zeros at the end, row
    std::int64_t least = 0, most = 0;
    bool any = false;
    std::set<std::int64_t> days;
    const bool isDay = column.type() == Type::Date;
    std::vector<SourceRow> rows;
    std::int64_t last = 0;
    for (std::size_t i = 0; i < column.size(); ++i) {
        const auto row = static_cast<SourceRow>(i);
        if (column.isEmpty(row)) continue;
        const std::int64_t value = column.integer(row);
        if (any && value == last) continue;
        last = value;
        if (isDay) {
            if (days.size() < kMostDays && days.insert(value).second) rows.push_back(row);
            continue;
        }
        if (any && value >= least && value <= most && digitsOf(value) < digitsOf(value < 0 ? least : most) && column.scale() == 0) continue;
        least = any ? std::min(least, value) : value;
        most = any ? std::max(most, value) : value;
        any = true;
        const auto key = std::pair(digitsOf(value), value < 0);
        const auto known = best.find(key);
        if (known == best.end())
            best.emplace(key, std::pair(zerosAtEnd(value), row));
        else if (known->second.first > 0)
            if (const int zeros = zerosAtEnd(value); zeros < known->second.first) known->second = {zeros, row};
    }
    for (const auto& [key, kept] : best) rows.push_back(kept.second);
    return rows;
}

}  // namespace

int GridPrivate::fitWidth(int column) const {
    const auto index = static_cast<std::size_t>(column);
    return index < fits.size() ? fits[index] : 80;
}

/// Measures headings and a sample of the values; a screenful first while loading, all again when the table is whole.
void GridPrivate::measureFits() {
    const ViewPlan& plan = session->plan();
    const auto& table = session->snapshot() ? session->snapshot()->table : nullptr;
    const std::size_t rows = table ? table->rows : 0;
    const bool worthAgain = rows != fitsRows && (fitsRows == 0 || (table && table->complete));
    if (fitsPlan == &plan && !worthAgain) return;
    fitsPlan = &plan;
    fitsRows = rows;
    fits.assign(plan.columns.size(), 0);
    decimalInsets.assign(plan.columns.size(), 0);
    const std::int64_t count = lines ? lines->lineCount() : 0;
    const bool complete = table && table->complete;
    std::int64_t sample = complete ? kFitSample : kFitWhileLoading;
    if (plan.columns.size() > kManyColumns) sample = std::max<std::int64_t>(8, sample * 15 / static_cast<std::int64_t>(plan.columns.size()));
    CellText cell;
    for (std::size_t i = 0; i < plan.columns.size(); ++i) {
        const PlannedColumn& column = plan.columns[i];
        Fit& fit = knownFits[column.design.field];
        const bool known = fit.formatter == column.formatter && fit.heading == column.design.heading && fit.rows == rows;
        if (!known) {
            const bool isReal = column.format.type == Type::Real;
            const bool isCheck = column.format.type == Type::Boolean && column.format.spec.style == FormatStyle::Automatic;
            double widest = 0, wholes = 0, fractions = 0;
            const auto measure = [&](std::int64_t line) {
                lines->cell(static_cast<ViewLine>(line), static_cast<int>(i), cell);
                const double width = isCheck ? 16 : painter->text().width(std::string_view(cell.text).substr(0, kMostMeasuredBytes));
                widest = std::max(widest, width);
                if (!isReal || cell.isMisfit) return;
                const std::size_t point = cell.text.find('.');
                const double fraction =
                    point == std::string::npos ? 0 : painter->text().width(std::string_view(cell.text).substr(point));
                fractions = std::max(fractions, fraction);
                wholes = std::max(wholes, width - fraction);
            };
            const bool measured = column.design.width.mode == WidthMode::Fit || isReal;
            for (std::int64_t line = 0; measured && line < std::min(count, sample); ++line) measure(line);
            const std::int64_t step = std::max<std::int64_t>(1, count / sample);
            for (std::int64_t line = sample; measured && complete && line < count; line += step) measure(line);
            widest = std::max(widest, wholes + fractions);
            fit = {measured ? column.formatter : nullptr, column.design.heading, rows,
                   std::max(headings->neededWidth(column.design.heading),
                            static_cast<int>(std::ceil(widest)) + 2 * measure::kCellPadding + 2),
                   static_cast<int>(std::ceil(fractions))};
        }
        fits[i] = fit.widthPx;
        decimalInsets[i] = fit.decimalInset;
    }
}

int GridPrivate::exactFit(int index) const {
    const PlannedColumn& column = planned(index);
    const Snapshot& snapshot = *session->snapshot();
    const GlyphText& text = painter->text();
    double widest = 0;
    CellText cell;
    const auto measure = [&](SourceRow row) {
        readCell(snapshot, row, column, cell);
        widest = std::max(widest, static_cast<double>(text.width(cell.text)));
    };
    const Column* values = snapshot.table->column(column.label ? *column.label : column.field);
    if (!values) return fitWidth(index);
    if (column.format.type == Type::Boolean && column.format.spec.style == FormatStyle::Automatic) {
        widest = 16;
    } else if (column.formatter->isMessage()) {
        // Over several fields there is no short cut: as many as a frame allows, evenly spread.
        const std::size_t step = std::max<std::size_t>(1, values->size() / 2000);
        for (std::size_t i = 0; i < values->size(); i += step) measure(static_cast<SourceRow>(i));
    } else if (isIntegral(values->type())) {
        for (const SourceRow row : widestIntegers(*values)) measure(row);
    } else if (const auto* dictionary = std::get_if<TextDictionary>(&values->storage())) {
        for (std::size_t i = 0; i < dictionary->distinct.size(); ++i)
            widest = std::max(widest, static_cast<double>(text.width(dictionary->distinct.at(i).substr(0, 4096))));
    } else if (const auto* arena = std::get_if<TextArena>(&values->storage())) {
        const double widestGlyph = text.width("W") * 1.1;
        for (std::size_t i = 0; i < arena->size(); ++i) {
            const std::string_view value = arena->at(i).substr(0, 4096);
            if (static_cast<double>(value.size()) * widestGlyph > widest) widest = std::max(widest, static_cast<double>(text.width(value)));
        }
    } else {
        for (std::size_t i = 0; i < values->size(); ++i)
            if (!values->isEmpty(static_cast<SourceRow>(i))) measure(static_cast<SourceRow>(i));
    }
    for (const auto& [place, edit] : snapshot.edits->cells())
        if (place.second == column.field) measure(place.first);
    return std::max(headings->neededWidth(column.design.heading), static_cast<int>(std::ceil(widest)) + 2 * measure::kCellPadding + 2);
}

void GridPrivate::fitExactly(std::vector<std::string> fields) {
    // One column a turn of the event loop: the window keeps its frames.
    auto* turns = new QTimer(&grid);
    turns->setInterval(0);
    auto widths = std::make_shared<std::map<std::string, int>>();
    QObject::connect(turns, &QTimer::timeout, &grid, [this, turns, widths, rest = std::move(fields)]() mutable {
        if (!rest.empty()) {
            const std::string field = rest.back();
            rest.pop_back();
            if (const auto column = columnOf(QString::fromStdString(field))) (*widths)[field] = exactFit(*column);
            return;
        }
        turns->stop();
        turns->deleteLater();
        Design design = session->design();
        for (const auto& [field, width] : *widths) {
            const auto column = columnOf(QString::fromStdString(field));
            if (!column) continue;
            const PlannedColumn& p = planned(*column);
            knownFits[field] = {p.formatter, p.design.heading, fitsRows, width, decimalInsets[static_cast<std::size_t>(*column)]};
            design.column(field)->width.mode = WidthMode::Fit;
        }
        fitsPlan = nullptr;
        if (design == session->design()) return relayout();
        changeDesign(std::move(design), widths->size() == 1
                                            ? Grid::tr("Fit %1").arg(headingOfField(session->design(), widths->begin()->first))
                                            : Grid::tr("Fit columns"));
    });
    turns->start();
}

}  // namespace jollyrow
