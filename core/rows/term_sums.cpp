// SPDX-License-Identifier: MIT
// Idea: while one aggregate's values are 64 bits wide at one scale, its accumulators are (tallies.h); a batch that is
// not sends the whole term to the general ones (summing.h). Records that do not count (excluded, empty, filtered out)
// add to a slot behind the last group, so that the loops have no branch. Covered by tests/rows/group_test.cpp.
#include "core/rows/term_sums.h"

#include <algorithm>
#include <array>
#include <atomic>
#include <cmath>
#include <unordered_map>

#include "core/rows/parallel.h"
#include "core/rows/summing.h"
#include "core/rows/tallies.h"
#include "core/rules/conversion.h"
#include "core/rules/kernels.h"

namespace jollyrow {
namespace {

constexpr std::size_t kParallelFrom = 65'536;

Error stopped() { return {ErrorCode::Cancelled, "Summing up was cancelled."}; }

/// By slot the first failure in it; empty when nothing failed.
using Failures = std::vector<CellState>;

/// Merges what leaves hold into the groups above and the total, which stands behind the nodes.
template <class T, class Merge>
std::vector<T> mergedUp(std::vector<T>&& leaves, const GroupTree& tree, const Merge& merge) {
    std::vector<T> all(tree.nodes.size() + 1);
    if (tree.levels() == 0) {
        all.back() = std::move(leaves.front());
        return all;
    }
    std::move(leaves.begin(), leaves.begin() + static_cast<std::ptrdiff_t>(tree.leaves()),
              all.begin() + static_cast<std::ptrdiff_t>(tree.leafBegin()));
    // Level by level from the innermost, in display order within a level.
    for (int level = tree.levels() - 1; level >= 0; --level)
        for (std::uint32_t n = tree.levelBegin[static_cast<std::size_t>(level)];
             n < tree.levelBegin[static_cast<std::size_t>(level) + 1]; ++n)
            merge(level == 0 ? all.back() : all[tree.nodes[n].parent], all[n]);
    return all;
}

Failures mergedUp(const std::unordered_map<std::uint32_t, CellState>& ofLeaf, const GroupTree& tree) {
    if (ofLeaf.empty()) return {};
    std::vector<CellState> leaves(tree.leaves() + 1, CellState::Filled);
    for (const auto& [leaf, state] : ofLeaf) leaves[leaf] = state;
    return mergedUp(std::move(leaves), tree, [](CellState& into, const CellState& from) {
        if (into == CellState::Filled) into = from;
    });
}

/// The slots that records of a batch add to.
class Slots {
  public:
    Slots(const GroupTree& tree) : leafOf_(tree.leafOf.data()), none_(static_cast<std::uint32_t>(tree.leaves())) {}
    const std::uint32_t* of(std::size_t begin, std::size_t count, const std::uint8_t* states, bool oneState,
                            const Vector* passes) {
        const std::uint32_t* leaves = leafOf_ + begin;
        if (!states && !passes) return leaves;
        std::uint32_t* __restrict own = own_.data();
        const std::uint32_t none = none_;
        if (states && oneState) {
            std::fill_n(own, count, none);
            if (states[0] == 0) std::copy_n(leaves, count, own);
        } else if (states) {
            for (std::size_t i = 0; i < count; ++i) own[i] = states[i] == 0 ? leaves[i] : none;
        } else {
            std::copy_n(leaves, count, own);
        }
        for (std::size_t i = 0; passes && i < count; ++i)
            if (passes->state(i) != CellState::Filled || passes->booleans[passes->at(i)] == 0) own[i] = none;
        return own_.data();
    }

  private:
    const std::uint32_t* leafOf_;
    std::uint32_t none_;
    std::array<std::uint32_t, kBatch> own_{};
};

bool anyFails(const std::uint8_t* __restrict states, std::size_t count) {
    std::uint8_t all = 0;  // Filled and Empty are 0 and 1
    for (std::size_t i = 0; i < count; ++i) all |= states[i];
    return all > 1;
}

/// Runs a term's argument and filter together over all records: visit(thread, slots, count, argument).
template <class Visit>
Result<void> forSlots(const SummaryTerm& term, const GroupTree& tree, const EvaluationInput& input, std::size_t threads,
                      std::vector<std::unordered_map<std::uint32_t, CellState>>& failures, const Cancel& cancel,
                      const Visit& visit) {
    std::shared_ptr<const Evaluation> argument, filter;
    for (const auto& [program, made] : {std::pair{term.argument, &argument}, std::pair{term.filter, &filter}}) {
        if (!program) continue;
        auto prepared = Evaluation::prepare(program, input, cancel);
        if (!prepared) return prepared.error();
        *made = std::move(*prepared);
    }
    failures.resize(threads);
    const std::size_t rows = input.table->rows, batches = (rows + kBatch - 1) / kBatch;
    static const Vector kNone;
    inParallel(threads, [&](std::size_t thread) {
        Slots slots(tree);
        std::optional<Runner> values, passes;
        if (argument) values.emplace(argument);
        if (filter) passes.emplace(filter);
        for (std::size_t batch = batches * thread / threads; batch < batches * (thread + 1) / threads; ++batch) {
            if (cancel.requested()) return;
            const std::size_t begin = batch * kBatch, count = std::min(kBatch, rows - begin);
            const Vector& v = values ? values->run(begin, count) : kNone;
            const Vector* pass = passes ? &passes->run(begin, count) : nullptr;
            const std::uint32_t* of = slots.of(begin, count, v.states, v.constant, pass);
            if (v.states && anyFails(v.states, v.constant ? 1 : count))
                for (std::size_t k = 0; k < count; ++k) {
                    const bool counts = !pass || (pass->state(k) == CellState::Filled && pass->booleans[pass->at(k)]);
                    const std::uint32_t leaf = tree.leafOf[begin + k];
                    if (counts && isError(v.state(k)) && leaf < tree.leaves())
                        failures[thread].try_emplace(leaf, v.state(k));
                }
            visit(thread, of, count, v);
        }
    });
    if (cancel.requested()) return stopped();
    for (std::size_t t = 1; t < threads; ++t) failures[0].merge(failures[t]);
    return {};
}

template <class Tally>
class Tallies final : public TermSums {
  public:
    Tallies(tally::Boxing boxing, bool average) : boxing_(boxing), average_(average) {}

    /// False when a batch has values that do not fit: they are not 64 bits wide, or of another scale.
    Result<bool> run(const SummaryTerm& term, const GroupTree& tree, const EvaluationInput& input,
                     const Cancel& cancel) {
        const std::size_t slots = tree.leaves() + 1, rows = input.table->rows;
        const std::size_t threads = slots <= rows ? threadsFor(rows, kParallelFrom) : 1;
        std::vector<std::vector<Tally>> sums(threads, std::vector<Tally>(slots));
        std::vector<std::unordered_map<std::uint32_t, CellState>> failures;
        std::atomic<bool> fits = true;
        std::atomic<int> scale = -1;
        auto done = forSlots(term, tree, input, threads, failures, cancel,
                             [&](std::size_t thread, const std::uint32_t* of, std::size_t count, const Vector& v) {
                                 if (!fits.load(std::memory_order_relaxed)) return;
                                 if (!takes(v, scale)) return fits.store(false);
                                 addAll(sums[thread].data(), of, count, v);
                             });
        if (!done) return done.error();
        if (!fits) return false;
        if (boxing_.kind == RuleKind::Decimal) boxing_.scale = std::max(0, scale.load());
        for (std::size_t t = 1; t < threads; ++t)
            for (std::size_t i = 0; i < tree.leaves(); ++i) sums[0][i].merge(sums[t][i]);
        all_ = mergedUp(std::move(sums[0]), tree, [](Tally& into, const Tally& from) { into.merge(from); });
        failures_ = mergedUp(failures[0], tree);
        return true;
    }
    /// COUNT(*) is known without looking.
    void countAll(const GroupTree& tree) {
        if constexpr (std::is_same_v<Tally, tally::Count>) {
            all_.resize(tree.nodes.size() + 1);
            for (std::size_t n = 0; n < tree.nodes.size(); ++n) all_[n].n = tree.nodes[n].count;
            all_.back().n = static_cast<std::int64_t>(tree.order->size());
        }
    }

    EvaluatedCell at(std::size_t slot) const override {
        if (!failures_.empty() && failures_[slot] != CellState::Filled) return {failures_[slot], Empty{}};
        return all_[slot].cell(boxing_, average_);
    }
    std::unique_ptr<TermSums> copy() const override { return std::make_unique<Tallies>(*this); }
    bool change(std::span<const std::uint32_t> from, const EvaluatedCell& before, std::span<const std::uint32_t> to,
                const EvaluatedCell& after) override {
        if (!failures_.empty() || isError(before.state) || isError(after.state)) return false;
        const auto out = valueOf(before), in = valueOf(after);
        if ((before.state == CellState::Filled && !out) || (after.state == CellState::Filled && !in)) return false;
        if (in)
            for (const std::uint32_t slot : to) all_[slot].add(*in);
        if (out)
            for (const std::uint32_t slot : from)
                if (!all_[slot].remove(*out)) return false;
        return true;
    }

  private:
    using Number = typename Tally::Number;
    static constexpr bool kReal = std::is_same_v<Number, double>;
    static constexpr bool kCounts = std::is_same_v<Tally, tally::Count>;

    static bool takes(const Vector& v, std::atomic<int>& scale) {
        if (kCounts || kReal || v.kind != RuleKind::Decimal) return true;
        if (v.wide) return false;
        int none = -1;
        return scale.compare_exchange_strong(none, v.scale) || none == v.scale;
    }
    static void addAll(Tally* __restrict sums, const std::uint32_t* __restrict of, std::size_t count, const Vector& v) {
        if constexpr (kCounts) {
            for (std::size_t i = 0; i < count; ++i) sums[of[i]].add(0);
        } else {
            const Number* __restrict values;
            if constexpr (kReal)
                values = v.reals;
            else
                values = v.integers;
            if (v.constant)
                for (std::size_t i = 0; i < count; ++i) sums[of[i]].add(values[0]);
            else
                for (std::size_t i = 0; i < count; ++i) sums[of[i]].add(values[i]);
        }
    }
    std::optional<Number> valueOf(const EvaluatedCell& cell) const {
        if (cell.state != CellState::Filled) return std::nullopt;
        if constexpr (kCounts) {
            return 0;
        } else if constexpr (kReal) {
            const auto* real = std::get_if<double>(&cell.value);
            return real ? std::optional(*real) : std::nullopt;
        } else {
            if (const auto* v = std::get_if<std::int64_t>(&cell.value)) return *v;
            if (const auto* v = std::get_if<Date>(&cell.value)) return v->days;
            if (const auto* v = std::get_if<Time>(&cell.value)) return v->micros;
            if (const auto* v = std::get_if<Timestamp>(&cell.value)) return v->micros;
            const auto* exact = std::get_if<WideDecimal>(&cell.value);
            const auto same = exact && exact->scale <= boxing_.scale ? rounded(*exact, boxing_.scale) : std::nullopt;
            const auto narrow = same ? narrowed(WideDecimal{same->mantissa, 0}) : std::nullopt;
            if (!narrow) return std::nullopt;
            return narrow->mantissa;
        }
    }

    tally::Boxing boxing_;
    bool average_;
    std::vector<Tally> all_;
    Failures failures_;
};

/// The cells themselves, when there is nothing smaller to keep.
class KnownCells final : public TermSums {
  public:
    explicit KnownCells(std::vector<EvaluatedCell> cells) : cells_(std::move(cells)) {}
    EvaluatedCell at(std::size_t slot) const override { return cells_[slot]; }
    std::unique_ptr<TermSums> copy() const override { return std::make_unique<KnownCells>(*this); }
    bool change(std::span<const std::uint32_t>, const EvaluatedCell&, std::span<const std::uint32_t>,
                const EvaluatedCell&) override {
        return false;
    }

  private:
    std::vector<EvaluatedCell> cells_;
};

Result<std::unique_ptr<TermSums>> generalSums(const SummaryTerm& term, const GroupTree& tree,
                                              const EvaluationInput& input, const Cancel& cancel) {
    std::vector<Summing> leaves(tree.leaves() + 1);
    std::vector<std::unordered_map<std::uint32_t, CellState>> failures;
    auto done = forSlots(term, tree, input, 1, failures, cancel,
                         [&](std::size_t, const std::uint32_t* of, std::size_t count, const Vector& v) {
                             for (std::size_t i = 0; i < count; ++i)
                                 if (v.state(i) == CellState::Filled && of[i] < tree.leaves())
                                     add(leaves[of[i]], term, v, i);
                         });
    if (!done) return done.error();
    const Failures failed = mergedUp(failures[0], tree);
    const std::vector<Summing> all =
        mergedUp(std::move(leaves), tree, [&](Summing& into, const Summing& from) { merge(into, term, from); });
    std::vector<EvaluatedCell> cells;
    cells.reserve(all.size());
    for (std::size_t slot = 0; slot < all.size(); ++slot)
        cells.push_back(!failed.empty() && failed[slot] != CellState::Filled ? EvaluatedCell{failed[slot], Empty{}}
                                                                             : settled(all[slot], term));
    return std::unique_ptr<TermSums>(std::make_unique<KnownCells>(std::move(cells)));
}

Result<std::unique_ptr<TermSums>> externalSums(const SummaryTerm& term, const GroupTree& tree,
                                               const EvaluationInput& input, const Cancel& cancel) {
    using State = std::unique_ptr<AggregateState>;
    std::vector<State> leaves(tree.leaves() + 1);
    std::vector<std::unordered_map<std::uint32_t, CellState>> failures;
    auto done = forSlots(term, tree, input, 1, failures, cancel,
                         [&](std::size_t, const std::uint32_t* of, std::size_t count, const Vector& v) {
                             for (std::size_t i = 0; i < count; ++i) {
                                 if (v.state(i) != CellState::Filled || of[i] >= tree.leaves()) continue;
                                 State& state = leaves[of[i]];
                                 if (!state) state = term.external->begin();
                                 state->add(boxed(v, i));
                             }
                         });
    if (!done) return done.error();
    const Failures failed = mergedUp(failures[0], tree);
    const std::vector<State> all = mergedUp(std::move(leaves), tree, [&](State& into, const State& from) {
        if (!from) return;
        if (!into) into = term.external->begin();
        into->merge(*from);
    });
    std::vector<EvaluatedCell> cells;
    for (std::size_t slot = 0; slot < all.size(); ++slot) {
        if (!failed.empty() && failed[slot] != CellState::Filled) {
            cells.push_back({failed[slot], Empty{}});
            continue;
        }
        const State state = all[slot] ? nullptr : term.external->begin();
        auto value = (all[slot] ? all[slot] : state)->finish();
        if (!value)
            cells.push_back({CellState::FunctionFailed, Empty{}});
        else
            cells.push_back({std::holds_alternative<Empty>(*value) ? CellState::Empty : CellState::Filled, *value});
    }
    return std::unique_ptr<TermSums>(std::make_unique<KnownCells>(std::move(cells)));
}

/// COUNT(DISTINCT), percentiles, first and last: each group's records side by side, as ranks of their values.
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
        if (cancel.requested()) return stopped();
        return std::unique_ptr<TermSums>(std::make_unique<KnownCells>(std::move(cells)));
    }

  private:
    bool needsOrder() const {
        return term_.kind == SummaryKind::PercentileContinuous || term_.kind == SummaryKind::PercentileDiscrete;
    }

    EvaluatedCell cellFor(std::int64_t first, std::int64_t count, std::vector<std::uint32_t>& stretch) const {
        stretch.clear();
        const bool backwards = term_.kind == SummaryKind::Last;
        for (std::int64_t n = 0; n < count; ++n) {
            const std::uint32_t row =
                (*tree_.order)[static_cast<std::size_t>(backwards ? first + count - 1 - n : first + n)];
            if (!passes_.empty() && passes_[row] == 0) continue;
            const std::uint32_t code = codes_.byRow[row];
            const EvaluatedCell& cell = codes_.values[code];
            if (isError(cell.state)) return {cell.state, Empty{}};
            if (cell.state != CellState::Filled) continue;
            if (term_.kind == SummaryKind::First || backwards) return cell;
            stretch.push_back(ranks_.empty() ? code : ranks_[code]);
        }
        if (term_.kind == SummaryKind::CountDistinct) {
            std::sort(stretch.begin(), stretch.end());
            return {CellState::Filled,
                    static_cast<std::int64_t>(std::unique(stretch.begin(), stretch.end()) - stretch.begin())};
        }
        if (stretch.empty()) return {};
        return percentile(stretch);
    }

    EvaluatedCell percentile(std::vector<std::uint32_t>& ranks) const {
        const auto valueAt = [&](std::size_t place) -> const EvaluatedCell& {
            const auto at = ranks.begin() + static_cast<std::ptrdiff_t>(place);
            std::nth_element(ranks.begin(), at, ranks.end());
            return codes_.values[byRank_[*at]];
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

template <class Tally>
Result<std::unique_ptr<TermSums>> tallied(const SummaryTerm& term, const GroupTree& tree, const EvaluationInput& input,
                                          const Cancel& cancel) {
    const RuleType of = term.argument ? term.argument->type() : RuleType{RuleKind::Integer, 0};
    auto sums = std::make_unique<Tallies<Tally>>(tally::Boxing{of.kind, 0}, term.kind == SummaryKind::Average);
    if (!term.argument && !term.filter) {
        sums->countAll(tree);
        return std::unique_ptr<TermSums>(std::move(sums));
    }
    const auto fits = sums->run(term, tree, input, cancel);
    if (!fits) return fits.error();
    if (*fits) return std::unique_ptr<TermSums>(std::move(sums));
    return generalSums(term, tree, input, cancel);
}

}  // namespace

Result<EvaluatedCell> countedOf(const SummaryTerm& term, const EvaluationInput& input, std::uint32_t row) {
    if (term.filter) {
        const auto passes = evaluateOne(term.filter, input, static_cast<SourceRow>(row));
        if (!passes) return passes;
        if (!(passes->state == CellState::Filled && passes->value == RuleValue(true))) return EvaluatedCell{};
    }
    if (!term.argument) return EvaluatedCell{CellState::Filled, true};
    return evaluateOne(term.argument, input, static_cast<SourceRow>(row));
}

Result<std::unique_ptr<TermSums>> sumsOf(const SummaryTerm& term, const GroupTree& tree, const EvaluationInput& input,
                                         const Cancel& cancel) {
    if (cancel.requested()) return stopped();
    const RuleKind of = term.argument ? term.argument->type().kind : RuleKind::Integer;
    const bool real = of == RuleKind::Real, narrow = isIntegral(of) || of == RuleKind::Decimal;
    switch (term.kind) {
        case SummaryKind::Count: return tallied<tally::Count>(term, tree, input, cancel);
        case SummaryKind::Sum:
        case SummaryKind::Average:
            if (real) return tallied<tally::RealSum>(term, tree, input, cancel);
            if (narrow) return tallied<tally::ExactSum>(term, tree, input, cancel);
            break;
        case SummaryKind::Minimum:
            if (real) return tallied<tally::Extreme<double, false>>(term, tree, input, cancel);
            if (narrow) return tallied<tally::Extreme<std::int64_t, false>>(term, tree, input, cancel);
            break;
        case SummaryKind::Maximum:
            if (real) return tallied<tally::Extreme<double, true>>(term, tree, input, cancel);
            if (narrow) return tallied<tally::Extreme<std::int64_t, true>>(term, tree, input, cancel);
            break;
        case SummaryKind::Variance:
            if (real) return tallied<tally::Moments<false, false>>(term, tree, input, cancel);
            break;
        case SummaryKind::VariancePopulation:
            if (real) return tallied<tally::Moments<true, false>>(term, tree, input, cancel);
            break;
        case SummaryKind::Deviation:
            if (real) return tallied<tally::Moments<false, true>>(term, tree, input, cancel);
            break;
        case SummaryKind::DeviationPopulation:
            if (real) return tallied<tally::Moments<true, true>>(term, tree, input, cancel);
            break;
        case SummaryKind::External: return externalSums(term, tree, input, cancel);
        case SummaryKind::CountDistinct:
        case SummaryKind::PercentileContinuous:
        case SummaryKind::PercentileDiscrete:
        case SummaryKind::First:
        case SummaryKind::Last: return Stretches(term, tree).run(input, cancel);
    }
    return generalSums(term, tree, input, cancel);
}

}  // namespace jollyrow
