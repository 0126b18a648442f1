// SPDX-License-Identifier: MIT
#pragma once
// How records reach the accumulators of their groups: batch by batch, with the slot of each. Inside of the rows room.

#include <algorithm>
#include <array>
#include <atomic>
#include <optional>
#include <unordered_map>
#include <utility>
#include <vector>

#include "core/rows/group_tree.h"
#include "core/rows/parallel.h"
#include "core/rules/evaluator.h"
#include "core/rules/summary_list.h"

namespace jollyrow {

/// By innermost group the first failure in it.
using LeafFailures = std::unordered_map<std::uint32_t, CellState>;

/// The slots that records of a batch add to.
class Slots {
  public:
    Slots(const GroupTree& tree) : leafOf_(tree.leafOf.data()), none_(static_cast<std::uint32_t>(tree.leaves())) {}
    const std::uint32_t* of(std::size_t begin, std::size_t count, const std::uint8_t* __restrict states, bool oneState,
                            const Vector* passes) {
        const std::uint32_t* __restrict leaves = leafOf_ + begin;
        if (!states && !passes) return leaves;
        std::uint32_t* __restrict own = own_.data();
        const std::uint32_t none = none_;
        if (states && oneState) {
            std::fill_n(own, count, none);
            if (states[0] == 0) std::copy_n(leaves, count, own);
        } else if (states) {
            for (std::size_t i = 0; i < count; ++i) {
                const std::uint32_t counts = states[i] == 0 ? ~std::uint32_t{0} : 0;
                own[i] = (leaves[i] & counts) | (none & ~counts);
            }
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

inline bool anyFails(const std::uint8_t* __restrict states, std::size_t count) {
    std::uint8_t all = 0;  // Filled and Empty are 0 and 1
    for (std::size_t i = 0; i < count; ++i) all |= states[i];
    return all > 1;
}

/// A batch of records as a term's accumulators get it.
struct SlotBatch {
    std::size_t thread;
    const std::uint32_t* leaves;  ///< the innermost group of each record, whether it counts or not
    const std::uint32_t* slots;   ///< the same, but the slot behind the last group for what does not count
    std::size_t count;
    const Vector& values;  ///< of the argument
    bool fails;            ///< some value could not be computed
};

/// Runs a term's argument and filter together over all records: visit(batch) for each, until one says false.
template <class Visit>
Result<void> forSlots(const SummaryTerm& term, const GroupTree& tree, const EvaluationInput& input, std::size_t threads,
                      std::vector<LeafFailures>& failures, const Cancel& cancel, const Visit& visit) {
    std::shared_ptr<const Evaluation> argument, filter;
    for (const auto& [program, made] : {std::pair{term.argument, &argument}, std::pair{term.filter, &filter}}) {
        if (!program) continue;
        auto prepared = Evaluation::prepare(program, input, cancel);
        if (!prepared) return prepared.error();
        *made = std::move(*prepared);
    }
    failures.resize(threads);
    const std::size_t rows = input.table->rows, batches = (rows + kBatch - 1) / kBatch;
    static const Vector kNoValues;
    std::atomic<bool> stop = false;
    inParallel(threads, [&](std::size_t thread) {
        Slots slots(tree);
        std::optional<Runner> values, passes;
        if (argument) values.emplace(argument);
        if (filter) passes.emplace(filter);
        for (std::size_t batch = batches * thread / threads; batch < batches * (thread + 1) / threads; ++batch) {
            if (cancel.requested() || stop.load(std::memory_order_relaxed)) return;
            const std::size_t begin = batch * kBatch, count = std::min(kBatch, rows - begin);
            const Vector& v = values ? values->run(begin, count) : kNoValues;
            const Vector* pass = passes ? &passes->run(begin, count) : nullptr;
            const std::uint32_t* of = slots.of(begin, count, v.states, v.constant, pass);
            const bool fails = v.states && anyFails(v.states, v.constant ? 1 : count);
            if (fails)
                for (std::size_t k = 0; k < count; ++k) {
                    const bool counts = !pass || (pass->state(k) == CellState::Filled && pass->booleans[pass->at(k)]);
                    const std::uint32_t leaf = tree.leafOf[begin + k];
                    // Misfits are left out, not failures: FigureOrigin says how many.
                    if (counts && isError(v.state(k)) && v.state(k) != CellState::Misfit && leaf < tree.leaves())
                        failures[thread].try_emplace(leaf, v.state(k));
                }
            if (!visit(SlotBatch{thread, tree.leafOf.data() + begin, of, count, v, fails})) stop.store(true);
        }
    });
    if (cancel.requested()) return Error{ErrorCode::Cancelled, "Summing up was cancelled."};
    for (std::size_t t = 1; t < threads; ++t) failures[0].merge(failures[t]);
    return {};
}

}  // namespace jollyrow
