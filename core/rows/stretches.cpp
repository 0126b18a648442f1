// SPDX-License-Identifier: MIT
// Covered by tests/rows/group_test.cpp.
#include "core/rows/stretches.h"

#include <algorithm>
#include <cmath>

#include "core/rows/parallel.h"
#include "core/rules/conversion.h"

namespace jollyrow {
namespace {

Error countingStopped() { return {ErrorCode::Cancelled, "Summing up was cancelled."}; }

class Stretches {
  public:
    Stretches(const SummaryTerm& term, const GroupTree& tree) : term_(term), tree_(tree) {}

    Result<std::unique_ptr<TermSums>> run(const EvaluationInput& input, const Cancel& cancel) {
        auto codes = codesOf(term_.argument, input, ~std::size_t{0} >> 1, cancel);
        if (!codes) return codes.error();
        codes_ = std::move(*codes);
        if (needsOrder()) {
            auto ranks = ranksOf(codes_, SortTerm{std::nullopt, nullptr}, nullptr, nullptr, cancel);
            if (!ranks) return ranks.error();
            ranks_ = std::move(*ranks);
            byRank_.resize(ranks_.size());
            for (std::size_t code = 0; code < ranks_.size(); ++code)
                byRank_[ranks_[code]] = static_cast<std::uint32_t>(code);
        }
        if (term_.filter) {
            passes_.assign(input.table->rows, 0);
            auto done = forBatches(term_.filter, input, 1, cancel,
                                   [&](std::size_t, std::size_t begin, std::size_t count, const Vector& v) {
                                       for (std::size_t i = 0; i < count; ++i)
                                           passes_[begin + i] =
                                               v.state(i) == CellState::Filled && v.booleans[v.at(i)] != 0;
                                   });
            if (!done) return done.error();
        }
        std::vector<EvaluatedCell> cells(tree_.nodes.size() + 1);
        const std::size_t threads = threadsFor(tree_.order->size(), kParallelFrom);
        inParallel(threads, [&](std::size_t thread) {
            std::vector<std::uint32_t> stretch;
            for (std::size_t slot = thread; slot < cells.size() && !cancel.requested(); slot += threads)
                cells[slot] = slot == tree_.nodes.size()
                                  ? cellFor(0, static_cast<std::int64_t>(tree_.order->size()), stretch)
                                  : cellFor(tree_.nodes[slot].first, tree_.nodes[slot].count, stretch);
        });
        if (cancel.requested()) return countingStopped();
        return std::unique_ptr<TermSums>(std::make_unique<KnownSums>(std::move(cells)));
    }

  private:
    bool needsOrder() const {
        return term_.kind == SummaryKind::PercentileContinuous || term_.kind == SummaryKind::PercentileDiscrete ||
               term_.kind == SummaryKind::Mode;
    }

    EvaluatedCell cellFor(std::int64_t first, std::int64_t count, std::vector<std::uint32_t>& stretch) const {
        stretch.clear();
        const bool backwards = term_.kind == SummaryKind::Last;
        for (std::int64_t n = 0; n < count; ++n) {
            const std::uint32_t row =
                (*tree_.order)[static_cast<std::size_t>(backwards ? first + count - 1 - n : first + n)];
            if (!passes_.empty() && passes_[row] == 0) continue;
            const std::uint32_t code = codes_.byRow()[row];
            const CellState state = codes_.values.state(code);
            if (isError(state) && state != CellState::Misfit) return {state, Empty{}};
            if (state != CellState::Filled) continue;
            if (term_.kind == SummaryKind::First || backwards) return codes_.values.at(code);
            stretch.push_back(ranks_.empty() ? code : ranks_[code]);
        }
        if (term_.kind == SummaryKind::CountDistinct) {
            std::sort(stretch.begin(), stretch.end());
            return {CellState::Filled,
                    static_cast<std::int64_t>(std::unique(stretch.begin(), stretch.end()) - stretch.begin())};
        }
        if (stretch.empty()) return {};
        if (term_.kind == SummaryKind::Mode) return mostFrequent(stretch);
        return term_.distinct ? distinctSum(stretch) : percentile(stretch);
    }

    EvaluatedCell mostFrequent(std::vector<std::uint32_t>& ranks) const {
        std::sort(ranks.begin(), ranks.end());
        std::uint32_t best = ranks.front();
        std::ptrdiff_t most = 0;
        for (auto at = ranks.begin(); at != ranks.end();) {
            const auto next = std::upper_bound(at, ranks.end(), *at);
            if (next - at > most) {
                most = next - at;
                best = *at;
            }
            at = next;
        }
        return codes_.values.at(byRank_[best]);
    }

    /// SUM and AVG of each value once.
    EvaluatedCell distinctSum(std::vector<std::uint32_t>& codes) const {
        std::sort(codes.begin(), codes.end());
        codes.erase(std::unique(codes.begin(), codes.end()), codes.end());
        std::optional<WideDecimal> exact = WideDecimal{0, 0};
        double real = 0;
        for (const std::uint32_t code : codes) {
            const RuleValue value = codes_.values.at(code).value;
            const auto decimal = convertedConstant(value, RuleKind::Decimal);
            if (const auto* own = std::get_if<double>(&value))
                real += *own;
            else if (exact && decimal)
                exact = added(*exact, std::get<WideDecimal>(*decimal));
        }
        const bool isMean = term_.kind == SummaryKind::Average;
        if (term_.type.kind == RuleKind::Real)
            return {CellState::Filled, isMean ? real / static_cast<double>(codes.size()) : real};
        if (exact && isMean) exact = divided(*exact, {static_cast<std::int64_t>(codes.size()), 0});
        return exact ? EvaluatedCell{CellState::Filled, *exact} : EvaluatedCell{CellState::TooLarge, Empty{}};
    }

    EvaluatedCell percentile(std::vector<std::uint32_t>& ranks) const {
        const auto valueAt = [&](std::size_t place) {
            const auto at = ranks.begin() + static_cast<std::ptrdiff_t>(place);
            std::nth_element(ranks.begin(), at, ranks.end());
            return codes_.values.at(byRank_[*at]);
        };
        const auto n = static_cast<double>(ranks.size());
        if (term_.kind == SummaryKind::PercentileDiscrete)
            return valueAt(static_cast<std::size_t>(std::max(1.0, std::ceil(term_.fraction * n))) - 1);
        const double place = term_.fraction * (n - 1);
        const auto real = [&](double at) {
            const auto converted = convertedConstant(valueAt(static_cast<std::size_t>(at)).value, RuleKind::Real);
            return converted ? std::get<double>(*converted) : 0.0;
        };
        const double low = real(std::floor(place)), high = real(std::ceil(place));
        return {CellState::Filled, low + (place - std::floor(place)) * (high - low)};
    }

    const SummaryTerm& term_;
    const GroupTree& tree_;
    Codes codes_;
    std::vector<std::uint32_t> ranks_, byRank_;
    std::vector<std::uint8_t> passes_;
};

}  // namespace

Result<std::unique_ptr<TermSums>> stretchSums(const SummaryTerm& term, const GroupTree& tree,
                                              const EvaluationInput& input, const Cancel& cancel) {
    return Stretches(term, tree).run(input, cancel);
}

}  // namespace jollyrow
