// SPDX-License-Identifier: MIT
// Exactly, without formatting a million values: the width of a text depends on few things. Figures are all as wide as
// each other, so of numbers the ones with the most digits stand for all, per sign and number of decimals; days are
// formatted once each; texts of a dictionary once each; of other texts only those that could be wider than the widest
// so far, by their number of bytes. Bench: bench/paint_bench.cpp ("fit all").
#include "grid/layout/column_fits.h"

#include <bit>
#include <cmath>
#include <limits>

#include "grid/faces/cell_face.h"

namespace jollyrow {
namespace {

// Lines measured for a fit: the first, and as many spread over the rest; while loading about what is in sight.
constexpr std::int64_t kFitSample = 150;
constexpr std::int64_t kFitWhileLoading = 40;
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

/// Calls visit(row, value) for each filled row; 64 of them at once are seen to be filled.
template <class T, class Visit>
void forEachFilled(const Column& column, const SharedSpan<T>& values, const Visit& visit) {
    const T* data = values.data();
    const std::size_t size = column.size();
    const auto validity = column.validity();
    for (std::size_t word = 0; word * 64 < size; ++word) {
        const std::size_t first = word * 64, end = std::min(size, first + 64);
        std::uint64_t filled = validity.empty() ? ~std::uint64_t{0} : validity[word];
        if (filled == ~std::uint64_t{0}) {
            for (std::size_t i = first; i < end; ++i) visit(i, static_cast<std::int64_t>(data[i]));
            continue;
        }
        for (; filled != 0; filled &= filled - 1) {
            const std::size_t i = first + static_cast<std::size_t>(std::countr_zero(filled));
            if (i < end) visit(i, static_cast<std::int64_t>(data[i]));
        }
    }
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

/// A row of each day that there is, of days counted in `unit`s. (A constant: the division is a multiplication then.)
template <std::int64_t unit, class T>
void addDays(const Column& column, const SharedSpan<T>& values, const Range64& range, std::vector<SourceRow>& rows) {
    const std::int64_t days = range.most / unit - range.least / unit + 3;
    if (days > kMostDays) {
        for (std::size_t i = 0; i < column.size(); i += std::max<std::size_t>(1, column.size() / 4000))
            rows.push_back(static_cast<SourceRow>(i));
        return;
    }
    std::vector<char> seen(static_cast<std::size_t>(days), 0);
    const std::int64_t first = range.least / unit - 1;
    forEachFilled(column, values, [&](std::size_t row, std::int64_t value) {
        char& known = seen[static_cast<std::size_t>(value / unit - first)];
        if (known) return;
        known = 1;
        rows.push_back(static_cast<SourceRow>(row));
    });
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
        if (isMoment(column.type()))
            addDays<86'400'000'000>(column, values, range, rows);
        else
            addDays<1>(column, values, range, rows);
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

/// Tells the data behind a column apart; 0 while it is still to come.
std::uint64_t dataOf(const FitInput& input, const PlannedColumn& column) {
    const Column* values =
        input.snapshot ? input.snapshot->table->column(column.label ? *column.label : column.field) : nullptr;
    return values ? values->id() : 0;
}

/// Not by its address, which the next one may have once this one is gone.
template <class A, class B>
bool isSame(const A& a, const B& b) {
    return !a.owner_before(b) && !b.owner_before(a);
}

int paddedWidth(const FitInput& input, const PlannedColumn& column, double widest) {
    return std::max(input.headings.neededWidth(column.design.heading), static_cast<int>(std::ceil(widest)) +
                                                                           2 * measure::kCellPadding + 2 +
                                                                           (column.hasIcons ? measure::kIconRoom : 0));
}

}  // namespace

int ColumnFits::width(int column) const {
    const auto index = static_cast<std::size_t>(column);
    return index < widths_.size() ? widths_[index] : 80;
}

void ColumnFits::clear() {
    known_.clear();
    plan_ = nullptr;
}

bool ColumnFits::isMeasured(const FitInput& input) const {
    const std::shared_ptr<const Table> table = input.snapshot ? input.snapshot->table : nullptr;
    const bool isOther = !isSame(table_, table);
    const bool worthAgain = isOther && (rows_ == 0 || (table && table->complete));
    return plan_ == &input.plan && !worthAgain &&
           isSame(grouping_, input.snapshot ? input.snapshot->grouping : std::shared_ptr<const void>());
}

void ColumnFits::measure(const FitInput& input) {
    if (isMeasured(input)) return;
    const std::shared_ptr<const Table> table = input.snapshot ? input.snapshot->table : nullptr;
    grouping_ = input.snapshot ? input.snapshot->grouping : std::shared_ptr<const void>();
    plan_ = &input.plan;
    table_ = table;
    rows_ = table ? table->rows : 0;
    const std::size_t columns = input.plan.columns.size();
    widths_.assign(columns, 0);
    decimalInsets_.assign(columns, 0);
    std::int64_t sample = table && table->complete ? kFitSample : kFitWhileLoading;
    if (columns > kManyColumns) sample = std::max<std::int64_t>(8, sample * 15 / static_cast<std::int64_t>(columns));
    for (std::size_t i = 0; i < columns; ++i) {
        const PlannedColumn& column = input.plan.columns[i];
        Fit& fit = known_[column.design.field];
        measureFigures(input, static_cast<int>(i), fit);
        const bool isKnown = fit.formatter == column.formatter && fit.face == column.face &&
                             fit.hasIcons == column.hasIcons && fit.heading == column.design.heading &&
                             fit.rows == rows_ && fit.data == dataOf(input, column);
        if (!isKnown) measureSample(input, column, sample, fit);
        widths_[i] = std::max(fit.widthPx, fit.figuresPx);
        decimalInsets_[i] = fit.decimalInset;
    }
}

/// Figures widen a column once, when they come to it; another filter does not push the grid about.
void ColumnFits::measureFigures(const FitInput& input, int column, Fit& fit) const {
    if (!input.groupText || (isSame(fit.grouping, grouping_) && fit.figureRows == rows_)) return;
    fit.figuresPx = input.cells.groups().figureWidth(*input.groupText, *input.snapshot, column);
    fit.grouping = grouping_;
    fit.figureRows = rows_;
}

void ColumnFits::measureSample(const FitInput& input, const PlannedColumn& column, std::int64_t sample,
                               Fit& fit) const {
    const GlyphText& text = input.cells.text();
    const bool isReal = column.format.type == Type::Real;
    const CellFace& face = faceOf(column);
    const std::int64_t count = input.snapshot ? input.snapshot->recordCount() : 0;
    double widest = 0, wholes = 0, fractions = 0;
    CellText cell;
    std::optional<CellReader> cells;
    const auto measure = [&](std::int64_t place) {
        if (!cells) cells.emplace(*input.snapshot, column);
        cells->read(input.snapshot->record(place), cell);
        const auto needed = face.measure(text, column, cell);
        const double width = needed ? *needed : text.width(std::string_view(cell.text).substr(0, kMostMeasuredBytes));
        widest = std::max(widest, width);
        if (!isReal || cell.isMisfit) return;
        const std::size_t point = cell.text.find('.');
        const double fraction = point == std::string::npos ? 0 : text.width(std::string_view(cell.text).substr(point));
        fractions = std::max(fractions, fraction);
        wholes = std::max(wholes, width - fraction);
    };
    const bool isMeasured = column.design.width.mode == WidthMode::Fit || isReal;
    for (std::int64_t line = 0; isMeasured && line < std::min(count, sample); ++line) measure(line);
    const std::int64_t step = std::max<std::int64_t>(1, count / sample);
    const bool complete = input.snapshot && input.snapshot->table && input.snapshot->table->complete;
    for (std::int64_t line = sample; isMeasured && complete && line < count; line += step) measure(line);
    fit.formatter = isMeasured ? column.formatter : nullptr;
    fit.face = column.face;
    fit.hasIcons = column.hasIcons;
    fit.heading = column.design.heading;
    fit.rows = rows_;
    fit.data = dataOf(input, column);
    fit.widthPx = paddedWidth(input, column, std::max(widest, wholes + fractions));
    fit.decimalInset = static_cast<int>(std::ceil(fractions));
}

void ColumnFits::keep(const FitInput& input, int index, int widthPx) {
    const PlannedColumn& column = input.plan.columns[static_cast<std::size_t>(index)];
    Fit& fit = known_[column.design.field];
    fit.formatter = column.formatter;
    fit.face = column.face;
    fit.hasIcons = column.hasIcons;
    fit.heading = column.design.heading;
    fit.rows = rows_;
    fit.data = dataOf(input, column);
    fit.widthPx = widthPx;
    fit.decimalInset = decimalInsets_[static_cast<std::size_t>(index)];
    plan_ = nullptr;
}

int ColumnFits::exact(const FitInput& input, int index) const {
    const PlannedColumn& column = input.plan.columns[static_cast<std::size_t>(index)];
    // Wider than a column may be is wide enough.
    const double mostPx = column.design.width.maximum > 0 ? column.design.width.maximum : Width::kMostPixels;
    const Snapshot& snapshot = *input.snapshot;
    const GlyphText& text = input.cells.text();
    double widest = 0;
    CellText cell;
    CellReader cells(snapshot, column);
    const CellFace& face = faceOf(column);
    const auto measure = [&](SourceRow row) {
        cells.read(row, cell);
        const auto needed = face.measure(text, column, cell);
        widest = std::max(widest, needed ? *needed : static_cast<double>(text.width(cell.text)));
    };
    const Column* values = snapshot.table->column(column.label ? *column.label : column.field);
    if (!values) return width(index);
    if (column.face || column.formatter->isMessage()) {
        // Over several fields there is no short cut: as many as a frame allows, evenly spread.
        const std::size_t step = std::max<std::size_t>(1, values->size() / 2000);
        for (std::size_t i = 0; i < values->size(); i += step) measure(static_cast<SourceRow>(i));
    } else if (const auto always = face.measure(text, column, cell)) {
        widest = *always;
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
    return paddedWidth(input, column, widest);
}

}  // namespace jollyrow
