// SPDX-License-Identifier: MIT
#pragma once
// The quickest way to sums and extremes of groups, for the plainest values. Inside of the rows room.

#include <algorithm>
#include <atomic>
#include <bit>
#include <type_traits>

#include "core/base/page_allocator.h"
#include "core/rows/slot_batches.h"
#include "core/rows/tallies.h"

namespace jollyrow {

/// One number for each group, for values of which none is empty or left out and whose sums stay within 64 bits.
template <class Tally>
class PlainPass {
  public:
    using Number = std::int64_t;

    /// False when some value is not of that kind; nothing is lost but time.
    static Result<bool> run(const SummaryTerm& term, const GroupTree& tree, const EvaluationInput& input,
                            std::vector<Tally>& leaves, int& scale, const Cancel& cancel) {
        const std::size_t slots = tree.leaves() + 1, rows = input.table->rows;
        const std::size_t threads = slots <= rows ? threadsFor(rows, kParallelFrom) : 1;
        // Neighbours are often in one group: several numbers each keep the processor from waiting for the last one.
        const std::size_t lanes = slots <= kMostLanedSlots ? kLanes : 1;
        const int roomBits = 62 - static_cast<int>(std::bit_width(rows));
        std::vector<Numbers> numbers(threads);
        std::vector<LeafFailures> failures;
        std::atomic<bool> fits = true;
        std::atomic<int> known = -1;
        auto done = forSlots(term, tree, input, threads, failures, cancel,
                             [&](std::size_t thread, const std::uint32_t* of, std::size_t count, const Vector& v) {
                                 if (!fits.load(std::memory_order_relaxed)) return;
                                 int none = -1;
                                 if (v.states || v.constant || v.wide ||
                                     !(known.compare_exchange_strong(none, v.scale) || none == v.scale))
                                     return fits.store(false);
                                 Numbers& own = numbers[thread];
                                 if (own.empty())
                                     own.resize(slots * lanes), std::fill(own.begin(), own.end(), kNothing);
                                 const std::uint64_t bits = lanes == 1
                                                                ? add(own.data(), of, v.integers, count)
                                                                : addLaned(own.data(), slots, of, v.integers, count);
                                 if (kSums && static_cast<int>(std::bit_width(bits)) > roomBits) fits.store(false);
                             });
        if (!done) return done.error();
        if (!fits) return false;
        scale = std::max(0, known.load());
        for (std::size_t leaf = 0; leaf < tree.leaves(); ++leaf) {
            Number all = kNothing;
            for (const Numbers& own : numbers)
                for (std::size_t lane = 0; lane < lanes && !own.empty(); ++lane) put(all, own[lane * slots + leaf]);
            const std::int64_t count = tree.levels() == 0 ? static_cast<std::int64_t>(tree.order->size())
                                                          : tree.nodes[tree.leafBegin() + leaf].count;
            leaves[leaf] = Tally::of(count, all);
        }
        return true;
    }

  private:
    using Numbers = std::vector<Number, PageAllocator<Number>>;
    static constexpr bool kSums = std::is_same_v<Tally, tally::ExactSum>;
    static constexpr Number kNothing = Tally::kNothing;
    static constexpr std::size_t kLanes = 4, kMostLanedSlots = 4096;

    static void put(Number& into, Number v) {
        if constexpr (kSums)
            into = static_cast<Number>(static_cast<std::uint64_t>(into) + static_cast<std::uint64_t>(v));
        else if constexpr (Tally::kLargest)
            into = std::max(into, v);
        else
            into = std::min(into, v);
    }
    static std::uint64_t sizeOf(Number v) { return static_cast<std::uint64_t>(v ^ (v >> 63)); }
    /// The bits that occur in the values.
    static std::uint64_t add(Number* __restrict own, const std::uint32_t* __restrict of,
                             const Number* __restrict values, std::size_t count) {
        std::uint64_t bits = 0;
        for (std::size_t i = 0; i < count; ++i) {
            put(own[of[i]], values[i]);
            if (kSums) bits |= sizeOf(values[i]);
        }
        return bits;
    }
    static std::uint64_t addLaned(Number* __restrict own, std::size_t slots, const std::uint32_t* __restrict of,
                                  const Number* __restrict values, std::size_t count) {
        Number* __restrict b = own + slots;
        Number* __restrict c = b + slots;
        Number* __restrict d = c + slots;
        std::uint64_t bits = 0;
        std::size_t i = 0;
        for (; i + kLanes <= count; i += kLanes) {
            put(own[of[i]], values[i]);
            put(b[of[i + 1]], values[i + 1]);
            put(c[of[i + 2]], values[i + 2]);
            put(d[of[i + 3]], values[i + 3]);
            if (kSums)
                bits |= sizeOf(values[i]) | sizeOf(values[i + 1]) | sizeOf(values[i + 2]) | sizeOf(values[i + 3]);
        }
        return bits | add(own, of + i, values + i, count - i);
    }
};

}  // namespace jollyrow
