// SPDX-License-Identifier: MIT
// Widths that headings and values need. Sampled while one works; exactly on demand.
//
// Exactly, without formatting a million values: the width of a text depends on few things. Figures are all as wide as
// each other, so of numbers the ones with the most digits stand for all, per sign and number of decimals; days are
// formatted once each; texts of a dictionary once each; of other texts only those that could be wider than the widest
// so far, by their number of bytes. Bench: bench/paint_bench.cpp ("fit all").
#include <QTimer>

#include <cmath>
#include <limits>
#include <map>

#include "grid/inside/grid_p.h"

namespace jollyrow {
namespace {

// Lines measured for a fit: the first, and as many spread over the rest; while loading about what is in sight.
constexpr std::int64_t kFitSample = 150;
constexpr std::int64_t kFitWhileLoading = 40;
constexpr qint64 kTurnMs = 5;             // half a frame, with what the last column takes
constexpr std::size_t kManyColumns = 60;  // so many share the time that fifteen take
constexpr std::size_t kMostMeasuredBytes = 200;
constexpr std::int64_t kMostDays = 40000;  // more than a hundred years: then by sample

int digitsOf(std::int64_t value) {
    int digits = 1;
    for (std::uint64_t rest = value < 0 ? 0 - static_cast<std::uint64_t>(value) : static_cast<std::uint64_t>(value);
         rest >= 10; rest /= 10)
        ++digits;
    return digits;
}
int zerosAtEnd(std::int64_t value) {
    int zeros = 0;
    for (; value != 0 && value % 10 == 0 && zeros < 18; value /= 10) ++zeros;
    return zeros;
}

/// Calls visit(row, value) for each filled row.
template <class T, class Visit>
void forEachFilled(const Column& column, const SharedSpan<T>& values, const Visit& visit) {
    const auto validity = column.validity();
    for (std::size_t i = 0; i < column.size(); ++i)
        if (validity.empty() || (validity[i >> 6] >> (i & 63)) & 1)
            visit(i, static_cast<std::int64_t>(values.data()[i]));
}

struct Range64 {
    std::int64_t least = std::numeric_limits<std::int64_t>::max();
    std::int64_t most = std::numeric_limits<std::int64_t>::min();
};

/// How the width of a number's text follows from the number.
enum class TextWidth {
    ByDigits,   ///< more digits, wider: the smallest and largest stand for all
    ByWriting,  ///< decimals may be left out
    ByDay,      ///< names of days and months
};

TextWidth textWidthOf(const PlannedColumn& column) {
    if (hasDay(column.format.type)) return TextWidth::ByDay;
    const std::string& pattern = column.format.spec.pattern;
    const std::size_t point = pattern.find('.');
    const bool fixed = column.format.spec.style == FormatStyle::Automatic ||
                       (column.format.spec.style == FormatStyle::Pattern && !pattern.starts_with("::") &&
                        pattern.find('E') == std::string::npos &&
                        (point == std::string::npos || pattern.find('#', point) == std::string::npos));
    return fixed ? TextWidth::ByDigits : TextWidth::ByWriting;
}

/// Rows whose values are as wide as any of the column, when figures are of one width.
template <class T>
std::vector<SourceRow> widestIn(const Column& column, const SharedSpan<T>& values, TextWidth by) {
    Range64 range;
    std::size_t leastRow = 0, mostRow = 0;
    if (column.validity().empty() && values.size() != 0) {
        // Nothing is empty: plain loops, which the compiler makes vectors of.
        const T* data = values.data();
        T least = data[0], most = data[0];
        for (std::size_t i = 0; i < column.size(); ++i) {
            least = std::min(least, data[i]);
            most = std::max(most, data[i]);
        }
        range = {least, most};
        leastRow = static_cast<std::size_t>(std::find(data, data + column.size(), least) - data);
        mostRow = static_cast<std::size_t>(std::find(data, data + column.size(), most) - data);
    } else
        forEachFilled(column, values, [&](std::size_t row, std::int64_t value) {
            if (value < range.least) range.least = value, leastRow = row;
            if (value > range.most) range.most = value, mostRow = row;
        });
    if (range.least > range.most) return {};
    std::vector<SourceRow> rows{static_cast<SourceRow>(leastRow), static_cast<SourceRow>(mostRow)};
    if (by == TextWidth::ByDay) {
        const std::int64_t unit = isMoment(column.type()) ? 86'400'000'000 : 1;
        const std::int64_t days = range.most / unit - range.least / unit + 3;
        if (days > kMostDays) {
            for (std::size_t i = 0; i < column.size(); i += std::max<std::size_t>(1, column.size() / 4000))
                rows.push_back(static_cast<SourceRow>(i));
            return rows;
        }
        std::vector<bool> seen(static_cast<std::size_t>(days), false);
        const std::int64_t first = range.least / unit - 1;
        forEachFilled(column, values, [&](std::size_t row, std::int64_t value) {
            const auto day = static_cast<std::size_t>((unit == 1 ? value : value / unit) - first);
            if (seen[day]) return;
            seen[day] = true;
            rows.push_back(static_cast<SourceRow>(row));
        });
    } else if (by == TextWidth::ByWriting) {
        std::map<std::pair<int, bool>, std::pair<int, std::size_t>>
            best;  // digits and sign -> fewest zeros at the end, row
        forEachFilled(column, values, [&](std::size_t row, std::int64_t value) {
            const auto key = std::pair(digitsOf(value), value < 0);
            const auto known = best.find(key);
            if (known == best.end())
                best.emplace(key, std::pair(zerosAtEnd(value), row));
            else if (known->second.first > 0)
                if (const int zeros = zerosAtEnd(value); zeros < known->second.first) known->second = {zeros, row};
        });
        for (const auto& [key, kept] : best) rows.push_back(static_cast<SourceRow>(kept.second));
    }
    return rows;
}

std::vector<SourceRow> widestIntegers(const Column& column, TextWidth by) {
    return std::visit(
        [&](const auto& storage) -> std::vector<SourceRow> {
            using Storage = std::decay_t<decltype(storage)>;
            if constexpr (std::is_same_v<Storage, TextDictionary> || std::is_same_v<Storage, TextArena> ||
                          std::is_same_v<Storage, SharedSpan<double>> || std::is_same_v<Storage, SharedSpan<Int128>>)
                return {};
            else
                return widestIn(column, storage, by);
        },
        column.storage());
}

/// The widest of many texts, or any that is wider than `enoughPx`. The longest comes first, so that most of the others
/// are seen to be narrower by their length.
double widestText(const TextArena& texts, const GlyphText& text, double enoughPx) {
    constexpr std::size_t kMostBytes = 4096;  // a cell shows no more
    std::size_t longest = 0;
    for (std::size_t i = 1; i < texts.size(); ++i)
        if (texts.at(i).size() > texts.at(longest).size()) longest = i;
    if (texts.size() == 0) return 0;
    const double widestGlyph = text.width("W") * 1.1;
    double widest = text.width(texts.at(longest).substr(0, kMostBytes));
    for (std::size_t i = 0; i < texts.size() && widest < enoughPx; ++i)
        if (static_cast<double>(texts.at(i).size()) * widestGlyph > widest)
            widest = std::max(widest, static_cast<double>(text.width(texts.at(i).substr(0, kMostBytes))));
    return widest;
}

}  // namespace

/// Tells the data behind a column apart; 0 while it is still to come.
std::uint64_t GridPrivate::dataOf(const PlannedColumn& column) const {
    const auto& snapshot = session->snapshot();
    const Column* values = snapshot ? snapshot->table->column(column.label ? *column.label : column.field) : nullptr;
    return values ? values->id() : 0;
}

int GridPrivate::fitWidth(int column) const {
    const auto index = static_cast<std::size_t>(column);
    return index < fits.size() ? fits[index] : 80;
}

/// Measures headings and a sample of the values; a screenful first while loading, all again when the table is whole.
void GridPrivate::measureFits() {
    const ViewPlan& plan = session->plan();
    const auto& table = session->snapshot() ? session->snapshot()->table : nullptr;
    const std::size_t rows = table ? table->rows : 0;
    const bool worthAgain = table.get() != fitsTable && (fitsRows == 0 || (table && table->complete));
    const void* groupingNow = session->snapshot() ? session->snapshot()->grouping.get() : nullptr;
    if (fitsPlan == &plan && !worthAgain && fitsGrouping == groupingNow) return;
    fitsGrouping = groupingNow;
    fitsPlan = &plan;
    fitsTable = table.get();
    fitsRows = rows;
    fits.assign(plan.columns.size(), 0);
    decimalInsets.assign(plan.columns.size(), 0);
    const std::int64_t count = lines ? session->snapshot()->recordCount() : 0;
    const bool complete = table && table->complete;
    std::int64_t sample = complete ? kFitSample : kFitWhileLoading;
    if (plan.columns.size() > kManyColumns)
        sample = std::max<std::int64_t>(8, sample * 15 / static_cast<std::int64_t>(plan.columns.size()));
    CellText cell;
    // Figures widen a column once, when they come to it; another filter does not push the grid about.
    const GroupText* groupText = lines ? lines->groupText() : nullptr;
    const void* grouping = session->snapshot() ? session->snapshot()->grouping.get() : nullptr;
    for (std::size_t i = 0; i < plan.columns.size(); ++i) {
        const PlannedColumn& column = plan.columns[i];
        Fit& fit = knownFits[column.design.field];
        const std::uint64_t data = dataOf(column);
        if (groupText && (fit.grouping != grouping || fit.figureRows != rows)) {
            fit.figuresPx = painter->groups().figureWidth(*groupText, *session->snapshot(), static_cast<int>(i));
            fit.grouping = grouping;
            fit.figureRows = rows;
        }
        const bool known = fit.formatter == column.formatter && fit.heading == column.design.heading &&
                           fit.rows == rows && fit.data == data;
        if (!known) {
            const bool isReal = column.format.type == Type::Real;
            const bool isCheck =
                column.format.type == Type::Boolean && column.format.spec.style == FormatStyle::Automatic;
            double widest = 0, wholes = 0, fractions = 0;
            const auto measure = [&](std::int64_t place) {
                readCell(*session->snapshot(), session->snapshot()->record(place), column, cell);
                const double width =
                    isCheck ? 16 : painter->text().width(std::string_view(cell.text).substr(0, kMostMeasuredBytes));
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
            fit.formatter = measured ? column.formatter : nullptr;
            fit.heading = column.design.heading;
            fit.rows = rows;
            fit.data = data;
            fit.widthPx = std::max(headings->neededWidth(column.design.heading),
                                   static_cast<int>(std::ceil(widest)) + 2 * measure::kCellPadding + 2);
            fit.decimalInset = static_cast<int>(std::ceil(fractions));
        }
        fits[i] = std::max(fit.widthPx, fit.figuresPx);
        decimalInsets[i] = fit.decimalInset;
    }
}

int GridPrivate::exactFit(int index) const {
    const PlannedColumn& column = planned(index);
    // Wider than a column may be is wide enough.
    const double mostPx = column.design.width.maximum > 0 ? column.design.width.maximum : Width::kMostPixels;
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
    } else if (isIntegral(values->type()) && !values->isWide()) {
        for (const SourceRow row : widestIntegers(*values, column.label ? TextWidth::ByDigits : textWidthOf(column)))
            measure(row);
    } else if (const auto* dictionary = std::get_if<TextDictionary>(&values->storage())) {
        widest = widestText(dictionary->distinct, text, mostPx);
    } else if (const auto* arena = std::get_if<TextArena>(&values->storage())) {
        widest = widestText(*arena, text, mostPx);
    } else {
        for (std::size_t i = 0; i < values->size(); ++i)
            if (!values->isEmpty(static_cast<SourceRow>(i))) measure(static_cast<SourceRow>(i));
    }
    for (const auto& [place, edit] : snapshot.edits->cells())
        if (place.second == column.field) measure(place.first);
    return std::max(headings->neededWidth(column.design.heading),
                    static_cast<int>(std::ceil(widest)) + 2 * measure::kCellPadding + 2);
}

void GridPrivate::fitExactly(std::vector<std::string> fields) {
    // A few columns a turn of the event loop: the window keeps its frames.
    auto* turns = new QTimer(&grid);
    turns->setInterval(0);
    auto widths = std::make_shared<std::map<std::string, int>>();
    QObject::connect(turns, &QTimer::timeout, &grid, [this, turns, widths, rest = std::move(fields)]() mutable {
        QElapsedTimer turn;
        turn.start();
        while (!rest.empty()) {
            const std::string field = rest.back();
            rest.pop_back();
            if (const auto column = columnOf(QString::fromStdString(field))) (*widths)[field] = exactFit(*column);
            if (turn.elapsed() >= kTurnMs) return;
        }
        turns->stop();
        turns->deleteLater();
        Design design = session->design();
        for (const auto& [field, width] : *widths) {
            const auto column = columnOf(QString::fromStdString(field));
            if (!column) continue;
            const PlannedColumn& p = planned(*column);
            Fit& fit = knownFits[field];
            fit.formatter = p.formatter;
            fit.heading = p.design.heading;
            fit.rows = fitsRows;
            fit.data = dataOf(p);
            fit.widthPx = width;
            fit.decimalInset = decimalInsets[static_cast<std::size_t>(*column)];
            design.column(field)->width.mode = WidthMode::Fit;
        }
        fitsPlan = nullptr;
        if (design == session->design()) return relayout();
        changeDesign(std::move(design), widths->size() == 1 ? Grid::tr("Fit %1").arg(headingOfField(
                                                                  session->design(), widths->begin()->first))
                                                            : Grid::tr("Fit columns"));
    });
    turns->start();
}

}  // namespace jollyrow
