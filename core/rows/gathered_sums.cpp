// SPDX-License-Identifier: MIT
// Covered by tests/rows/group_test.cpp against PostgreSQL.
#include "core/rows/gathered_sums.h"

#include <algorithm>
#include <cmath>
#include <set>
#include <string_view>

#include "core/rows/group_codes.h"
#include "core/rules/window_codes.h"

namespace jollyrow {
namespace {

/// Sums of pairs and of their squared deviations, taken in one after the other (Youngs and Cramer), so that none is a
/// small difference of large numbers.
struct PairSums {
    double count = 0, x = 0, y = 0, xx = 0, yy = 0, xy = 0;
    void add(double newY, double newX) {
        ++count;
        x += newX;
        y += newY;
        if (count < 2) return;
        const double dx = newX * count - x, dy = newY * count - y, scale = 1 / (count * (count - 1));
        xx += dx * dx * scale;
        yy += dy * dy * scale;
        xy += dx * dy * scale;
    }
    EvaluatedCell figure(SummaryKind kind) const {
        const auto real = [](double value) { return EvaluatedCell{CellState::Filled, value}; };
        if (kind == SummaryKind::RegressionCount) return {CellState::Filled, static_cast<std::int64_t>(count)};
        const bool needsTwo = kind == SummaryKind::CovarianceSample;
        if (count < (needsTwo ? 2 : 1)) return {};
        switch (kind) {
            case SummaryKind::Correlation: return xx == 0 || yy == 0 ? EvaluatedCell{} : real(xy / std::sqrt(xx * yy));
            case SummaryKind::CovarianceSample: return real(xy / (count - 1));
            case SummaryKind::CovariancePopulation: return real(xy / count);
            case SummaryKind::RegressionMeanX: return real(x / count);
            case SummaryKind::RegressionMeanY: return real(y / count);
            case SummaryKind::RegressionSlope: return xx == 0 ? EvaluatedCell{} : real(xy / xx);
            case SummaryKind::RegressionIntercept: return xx == 0 ? EvaluatedCell{} : real((y - x * xy / xx) / count);
            case SummaryKind::RegressionFit:
                return xx == 0 ? EvaluatedCell{} : real(yy == 0 ? 1 : xy * xy / (xx * yy));
            case SummaryKind::RegressionXX: return real(xx);
            case SummaryKind::RegressionYY: return real(yy);
            default: return real(xy);
        }
    }
};

double asReal(const WindowColumn& values, std::uint32_t row) {
    if (values.kind == RuleKind::Real) return values.reals[row];
    if (values.kind == RuleKind::Decimal) return toReal(values.decimal(row));
    return static_cast<double>(values.integers[row]);
}

class Gathered {
  public:
    Gathered(const SummaryTerm& term, const GroupTree& tree, const EvaluationInput& input, const Cancel& cancel)
        : term_(term), tree_(tree), input_(input), cancel_(cancel) {}

    Result<std::unique_ptr<TermSums>> run() {
        for (const auto& [program, column] : {std::pair{term_.argument, &first_}, std::pair{term_.second, &second_},
                                              std::pair{term_.filter, &passes_}}) {
            if (!program) continue;
            if (auto done = read(program, *column); !done) return done.error();
        }
        for (const SummaryOrder& key : term_.order) {
            WindowColumn values;
            if (auto done = read(key.key, values); !done) return done.error();
            order_.push_back(codesOf(values, {true, key.descending, key.emptiesFirst}));
        }
        std::vector<EvaluatedCell> cells(tree_.nodes.size() + 1);
        for (std::size_t slot = 0; slot < cells.size() && !cancel_.requested(); ++slot)
            cells[slot] = slot == tree_.nodes.size()
                              ? cellFor(0, static_cast<std::int64_t>(tree_.order->size()))
                              : cellFor(tree_.nodes[slot].first, tree_.nodes[slot].count);
        if (cancel_.requested()) return Error{ErrorCode::Cancelled, "Summing up was cancelled."};
        return std::unique_ptr<TermSums>(std::make_unique<KnownSums>(std::move(cells)));
    }

  private:
    Result<void> read(const std::shared_ptr<const Program>& program, WindowColumn& into) {
        into = WindowColumn(program->type().kind);
        into.resize(input_.table->rows);
        return forBatches(program, input_, 1, cancel_,
                          [&](std::size_t, std::size_t begin, std::size_t count, const Vector& v) {
                              into.put(begin, v, count);
                          });
    }
    bool counts(std::uint32_t row) const {
        return !term_.filter || (passes_.isFilled(row) && passes_.booleans[row] != 0);
    }
    static bool fails(const WindowColumn& values, std::uint32_t row) {
        return isError(values.state(row)) && values.state(row) != CellState::Misfit;
    }

    EvaluatedCell cellFor(std::int64_t first, std::int64_t count) {
        rows_.clear();
        for (std::int64_t n = first; n < first + count; ++n) {
            const std::uint32_t row = (*tree_.order)[static_cast<std::size_t>(n)];
            if (!counts(row)) continue;
            for (const WindowColumn* values : {&first_, &second_})
                if (values->size() != 0 && fails(*values, row)) return {values->state(row), Empty{}};
            if (first_.isFilled(row)) rows_.push_back(row);
        }
        switch (term_.kind) {
            case SummaryKind::Every:
            case SummaryKind::AnyOf: return truth();
            case SummaryKind::Joined: return joined();
            default: return pairs();
        }
    }

    EvaluatedCell truth() const {
        if (rows_.empty()) return {};
        const bool wanted = term_.kind == SummaryKind::AnyOf;
        const bool isThere = std::any_of(rows_.begin(), rows_.end(), [&](std::uint32_t row) {
            return (first_.booleans[row] != 0) == wanted;
        });
        return {CellState::Filled, isThere == wanted};
    }

    EvaluatedCell pairs() const {
        PairSums sums;
        for (const std::uint32_t row : rows_)
            if (second_.isFilled(row)) sums.add(asReal(first_, row), asReal(second_, row));
        return sums.figure(term_.kind);
    }

    EvaluatedCell joined() {
        std::stable_sort(rows_.begin(), rows_.end(), [&](std::uint32_t a, std::uint32_t b) {
            for (const WindowCodes& key : order_)
                if (key.codes[a] != key.codes[b]) return key.codes[a] < key.codes[b];
            return false;
        });
        std::string all;
        std::set<std::string_view> seen;
        bool isFirst = true;
        for (const std::uint32_t row : rows_) {
            if (term_.distinct && !seen.insert(first_.texts[row]).second) continue;
            if (!isFirst && second_.isFilled(row)) all += second_.texts[row];
            all += first_.texts[row];
            isFirst = false;
            if (all.size() > kMostTextBytes) return {CellState::TextTooLong, Empty{}};
        }
        if (isFirst) return {};
        return {CellState::Filled, std::move(all)};
    }

    const SummaryTerm& term_;
    const GroupTree& tree_;
    const EvaluationInput& input_;
    const Cancel& cancel_;
    WindowColumn first_, second_, passes_;
    std::vector<WindowCodes> order_;
    std::vector<std::uint32_t> rows_;  ///< of the group in hand
};

}  // namespace

Result<std::unique_ptr<TermSums>> gatheredSums(const SummaryTerm& term, const GroupTree& tree,
                                               const EvaluationInput& input, const Cancel& cancel) {
    return Gathered(term, tree, input, cancel).run();
}

}  // namespace jollyrow
