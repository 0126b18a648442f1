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

/// One number for each group, for values of which none fails and whose sums stay within 64 bits. How many values a
/// group has is its records less those that do not count, which only batches that have some look for; an extreme need
/// not know how many there are, only that there is one.
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
        std::vector<Numbers> numbers(threads), missing(threads);
        std::vector<LeafFailures> failures;
        std::atomic<bool> fits = true;
        std::atomic<int> known = -1;
        std::atomic<bool> some = false;  // some record does not count
        auto done = forSlots(term, tree, input, threads, failures, cancel, [&](const SlotBatch& batch) {
            const Vector& v = batch.values;
            int none = -1;
            if (batch.fails || v.constant || v.wide ||
                !(known.compare_exchange_strong(none, v.scale) || none == v.scale)) {
                fits.store(false);
                return false;
            }
            Numbers& own = madeOf(numbers[batch.thread], slots * lanes, kNothing);
            if (batch.slots != batch.leaves && !kSums) {
                some.store(true, std::memory_order_relaxed);
                if (holdsNothing(v.integers, batch.count)) fits.store(false);
            } else if (batch.slots != batch.leaves) {
                Numbers& less = madeOf(missing[batch.thread], slots * lanes, 0);
                lanes == 1 ? miss(less.data(), batch, 0, slots - 1) : missLaned(less.data(), slots, batch);
            }
            const std::uint64_t bits = lanes == 1 ? add(own.data(), batch.slots, v.integers, batch.count)
                                                  : addLaned(own.data(), slots, batch.slots, v.integers, batch.count);
            if (kSums && static_cast<int>(std::bit_width(bits)) > roomBits) fits.store(false);
            return fits.load(std::memory_order_relaxed);
        });
        if (!done) return done.error();
        if (!fits) return false;
        scale = std::max(0, known.load());
        for (std::size_t leaf = 0; leaf < tree.leaves(); ++leaf) {
            Number all = kNothing;
            std::int64_t count = tree.levels() == 0 ? static_cast<std::int64_t>(tree.order->size())
                                                    : tree.nodes[tree.leafBegin() + leaf].count;
            for (std::size_t t = 0; t < threads; ++t)
                for (std::size_t place = leaf; place < slots * lanes; place += slots) {
                    if (!numbers[t].empty()) put(all, numbers[t][place]);
                    if (!missing[t].empty()) count -= missing[t][place];
                }
            if (!kSums && some && all == kNothing) count = 0;
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
    static Numbers& madeOf(Numbers& numbers, std::size_t size, Number value) {
        if (numbers.empty()) numbers.resize(size), std::fill(numbers.begin(), numbers.end(), value);
        return numbers;
    }
    /// Whether a value is the one that stands for none.
    static bool holdsNothing(const Number* __restrict values, std::size_t count) {
        std::uint64_t found = 0;  // its sign says it: arithmetic that the compiler turns into several at once
        for (std::size_t i = 0; i < count; ++i) {
            const auto apart = static_cast<std::uint64_t>(values[i] ^ kNothing);
            found |= (apart - 1) & ~apart;
        }
        return found >> 63 != 0;
    }
    static void miss(Number* __restrict less, const SlotBatch& batch, std::size_t from, std::size_t none) {
        for (std::size_t i = from; i < batch.count; ++i) less[batch.leaves[i]] += batch.slots[i] == none;
    }
    static void missLaned(Number* __restrict less, std::size_t slots, const SlotBatch& batch) {
        const std::size_t none = slots - 1;
        std::size_t i = 0;
        for (; i + kLanes <= batch.count; i += kLanes)
            for (std::size_t lane = 0; lane < kLanes; ++lane)
                less[lane * slots + batch.leaves[i + lane]] += batch.slots[i + lane] == none;
        miss(less, batch, i, none);
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
