// SPDX-License-Identifier: MIT
// Idea: while one aggregate's values are 64 bits wide at one scale, its accumulators are (tallies.h); a batch that is
// not sends the whole term to the general ones (summing.h). Records that do not count (excluded, empty, filtered out)
// add to a slot behind the last group, so that the loops have no branch. Values of which none fails, and whose sums
// cannot pass 64 bits, need one number a group (PlainPass): how many there are is known but for the empty ones. Covered
// by tests/rows/group_test.cpp.
#include "core/rows/term_sums.h"

#include <algorithm>
#include <atomic>

#include "core/rows/gathered_sums.h"
#include "core/rows/parallel.h"
#include "core/rows/plain_pass.h"
#include "core/rows/slot_batches.h"
#include "core/rows/stretches.h"
#include "core/rows/summing.h"
#include "core/rows/tallies.h"
#include "core/rules/conversion.h"
#include "core/rules/kernels.h"

namespace jollyrow {
namespace {

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

Failures mergedUp(const LeafFailures& ofLeaf, const GroupTree& tree) {
    if (ofLeaf.empty()) return {};
    std::vector<CellState> leaves(tree.leaves() + 1, CellState::Filled);
    for (const auto& [leaf, state] : ofLeaf) leaves[leaf] = state;
    return mergedUp(std::move(leaves), tree, [](CellState& into, const CellState& from) {
        if (into == CellState::Filled) into = from;
    });
}

template <class Tally>
class Tallies final : public TermSums {
  public:
    Tallies(tally::Boxing boxing, bool average) : boxing_(boxing), average_(average) {}

    /// False when a batch has values that do not fit: they are not 64 bits wide, or of another scale.
    Result<bool> run(const SummaryTerm& term, const GroupTree& tree, const EvaluationInput& input,
                     const Cancel& cancel) {
        const std::size_t slots = tree.leaves() + 1, rows = input.table->rows;
        if constexpr (kPlain) {
            if (term.argument) {
                std::vector<Tally> leaves(slots);
                const auto plain = PlainPass<Tally>::run(term, tree, input, leaves, boxing_.scale, cancel);
                if (!plain) return plain.error();
                if (*plain) return take(std::move(leaves), tree);
                boxing_.scale = 0;
            }
        }
        const std::size_t threads = slots <= rows ? threadsFor(rows, kParallelFrom) : 1;
        std::vector<std::vector<Tally>> sums(threads, std::vector<Tally>(slots));
        std::vector<LeafFailures> failures;
        std::atomic<bool> fits = true;
        std::atomic<int> scale = -1;
        auto done = forSlots(term, tree, input, threads, failures, cancel, [&](const SlotBatch& batch) {
            if (!takes(batch.values, scale)) fits.store(false);
            if (!fits.load(std::memory_order_relaxed)) return false;
            addAll(sums[batch.thread].data(), batch.slots, batch.count, batch.values);
            return true;
        });
        if (!done) return done.error();
        if (!fits) return false;
        if (boxing_.kind == RuleKind::Decimal) boxing_.scale = std::max(0, scale.load());
        for (std::size_t t = 1; t < threads; ++t)
            for (std::size_t i = 0; i < tree.leaves(); ++i) sums[0][i].merge(sums[t][i]);
        failures_ = mergedUp(failures[0], tree);
        return take(std::move(sums[0]), tree);
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
    static constexpr bool kPlain = !kReal && !kCounts;

    bool take(std::vector<Tally>&& leaves, const GroupTree& tree) {
        all_ = mergedUp(std::move(leaves), tree, [](Tally& into, const Tally& from) { into.merge(from); });
        return true;
    }

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
            if (const auto* v = std::get_if<Instant>(&cell.value)) return v->micros;
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

Result<std::unique_ptr<TermSums>> generalSums(const SummaryTerm& term, const GroupTree& tree,
                                              const EvaluationInput& input, const Cancel& cancel) {
    std::vector<Summing> leaves(tree.leaves() + 1);
    std::vector<LeafFailures> failures;
    auto done = forSlots(term, tree, input, 1, failures, cancel, [&](const SlotBatch& batch) {
        for (std::size_t i = 0; i < batch.count; ++i)
            if (batch.values.state(i) == CellState::Filled && batch.slots[i] < tree.leaves())
                add(leaves[batch.slots[i]], term, batch.values, i);
        return true;
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
    return std::unique_ptr<TermSums>(std::make_unique<KnownSums>(std::move(cells)));
}

Result<std::unique_ptr<TermSums>> externalSums(const SummaryTerm& term, const GroupTree& tree,
                                               const EvaluationInput& input, const Cancel& cancel) {
    using State = std::unique_ptr<AggregateState>;
    std::vector<State> leaves(tree.leaves() + 1);
    std::vector<LeafFailures> failures;
    auto done = forSlots(term, tree, input, 1, failures, cancel, [&](const SlotBatch& batch) {
        for (std::size_t i = 0; i < batch.count; ++i) {
            if (batch.values.state(i) != CellState::Filled || batch.slots[i] >= tree.leaves()) continue;
            State& state = leaves[batch.slots[i]];
            if (!state) state = term.external->begin();
            state->add(boxed(batch.values, i));
        }
        return true;
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
    return std::unique_ptr<TermSums>(std::make_unique<KnownSums>(std::move(cells)));
}

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
    // One that is to be deleted counts for nothing.
    if (const RecordFate* fate = input.edits ? input.edits->fate(static_cast<SourceRow>(row)) : nullptr;
        fate && fate->isLeaving())
        return EvaluatedCell{};
    if (term.filter) {
        auto passes = evaluateOne(term.filter, input, static_cast<SourceRow>(row));
        if (!passes) return passes;
        if (!(passes->state == CellState::Filled && passes->value == RuleValue(true))) return EvaluatedCell{};
    }
    if (!term.argument) return EvaluatedCell{CellState::Filled, true};
    return evaluateOne(term.argument, input, static_cast<SourceRow>(row));
}

namespace {

/// Sums of whole numbers as whole numbers of 64 bits; one that passes them is too large, as PostgreSQL has it.
class WholeSums final : public TermSums {
  public:
    explicit WholeSums(std::unique_ptr<TermSums> exact) : exact_(std::move(exact)) {}
    EvaluatedCell at(std::size_t slot) const override {
        EvaluatedCell cell = exact_->at(slot);
        const auto* exact = std::get_if<WideDecimal>(&cell.value);
        if (cell.state != CellState::Filled || !exact) return cell;
        const auto whole = toInteger(*exact);
        return whole ? EvaluatedCell{CellState::Filled, *whole} : EvaluatedCell{CellState::TooLarge, Empty{}};
    }
    std::unique_ptr<TermSums> copy() const override { return std::make_unique<WholeSums>(exact_->copy()); }
    bool change(std::span<const std::uint32_t> from, const EvaluatedCell& before, std::span<const std::uint32_t> to,
                const EvaluatedCell& after) override {
        return exact_->change(from, before, to, after);
    }

  private:
    std::unique_ptr<TermSums> exact_;
};

}  // namespace

static Result<std::unique_ptr<TermSums>> exactSumsOf(const SummaryTerm& term, const GroupTree& tree,
                                                     const EvaluationInput& input, const Cancel& cancel);

Result<std::unique_ptr<TermSums>> sumsOf(const SummaryTerm& term, const GroupTree& tree, const EvaluationInput& input,
                                         const Cancel& cancel) {
    auto sums = exactSumsOf(term, tree, input, cancel);
    if (!sums || term.kind != SummaryKind::Sum || term.type.kind != RuleKind::Integer) return sums;
    return std::unique_ptr<TermSums>(std::make_unique<WholeSums>(std::move(*sums)));
}

static Result<std::unique_ptr<TermSums>> exactSumsOf(const SummaryTerm& term, const GroupTree& tree,
                                                     const EvaluationInput& input, const Cancel& cancel) {
    if (cancel.requested()) return stopped();
    const RuleKind of = term.argument ? term.argument->type().kind : RuleKind::Integer;
    const bool real = of == RuleKind::Real, narrow = isIntegral(of) || of == RuleKind::Decimal;
    if (term.distinct && term.kind != SummaryKind::Joined) return stretchSums(term, tree, input, cancel);
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
        case SummaryKind::Mode:
        case SummaryKind::Last: return stretchSums(term, tree, input, cancel);
        default: return gatheredSums(term, tree, input, cancel);
    }
    return generalSums(term, tree, input, cancel);
}

}  // namespace jollyrow
