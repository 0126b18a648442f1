// SPDX-License-Identifier: MIT
// Truth values come a batch at a time as bytes; eight bytes become eight bits by one multiplication. Choosing records
// from an order counts first, so that several threads may write their parts. Covered by tests/rows/filter_test.cpp.
#include "core/rows/record_set.h"

#include <algorithm>
#include <bit>
#include <cstring>

#include "core/rows/parallel.h"

namespace jollyrow {
namespace {

/// 64 bytes of 0 or 1 as bits.
std::uint64_t packed(const std::int8_t* truths) {
    std::uint64_t bits = 0;
    for (int k = 0; k < 8; ++k) {
        std::uint64_t bytes;
        std::memcpy(&bytes, truths + 8 * k, 8);
        bits |= ((bytes * 0x0102040810204080ULL) >> 56) << (8 * k);
    }
    return bits;
}

struct Failures {
    std::size_t count = 0;
    std::optional<SourceRow> first;
    CellState state = CellState::Filled;
    void add(std::size_t row, CellState found) {
        ++count;
        if (first) return;
        first = static_cast<SourceRow>(row);
        state = found;
    }
};

void evaluateInto(std::vector<std::uint64_t>& bits, Runner& runner, std::size_t begin, std::size_t count,
                  Failures& failures) {
    const Vector& v = runner.run(begin, count);
    alignas(8) std::int8_t truths[kBatch];
    if (v.constant)
        std::fill_n(truths, count, v.booleans[0]);
    else
        std::copy_n(v.booleans, count, truths);
    if (v.states && !v.constant) {
        std::uint8_t worst = 0;
        const std::uint8_t* __restrict states = v.states;
        for (std::size_t i = 0; i < count; ++i) {
            worst = std::max(worst, states[i]);
            truths[i] = static_cast<std::int8_t>(truths[i] & (states[i] == 0 ? 1 : 0));
        }
        for (std::size_t i = 0; isError(static_cast<CellState>(worst)) && i < count; ++i)
            if (isError(v.state(i))) failures.add(begin + i, v.state(i));
    } else if (v.states && v.state(0) != CellState::Filled) {
        std::fill_n(truths, count, std::int8_t{0});
        for (std::size_t i = 0; isError(v.state(0)) && i < count; ++i) failures.add(begin + i, v.state(0));
    }
    std::fill(truths + count, truths + kBatch, 0);
    for (std::size_t i = 0; i < count; i += 64) bits[(begin + i) >> 6] = packed(truths + i);
}

/// Bits side by side are added up, then pairs, then fours (Hacker's Delight, 5-1). In a program for all of x86-64
/// std::popcount is a call for each word.
void countBits(RecordSet& set) {
    std::uint64_t count = 0;
    for (const std::uint64_t word : set.bits) {
        std::uint64_t sums = word - ((word >> 1) & 0x5555555555555555U);
        sums = (sums & 0x3333333333333333U) + ((sums >> 2) & 0x3333333333333333U);
        sums = (sums + (sums >> 4)) & 0x0f0f0f0f0f0f0f0fU;
        count += (sums * 0x0101010101010101U) >> 56;
    }
    set.count = count;
}

}  // namespace

Result<std::shared_ptr<const RecordSet>> rowsWhere(const std::shared_ptr<const Program>& condition,
                                                   const EvaluationInput& input, const Cancel& cancel) {
    auto evaluation = Evaluation::prepare(condition, input, cancel);
    if (!evaluation) return evaluation.error();
    const std::size_t rows = input.table->rows;
    auto set = std::make_shared<RecordSet>();
    set->rows = rows;
    set->bits.resize((rows + 63) / 64);
    const std::size_t threads = threadsFor(rows, kParallelFrom);
    const std::size_t batches = (rows + kBatch - 1) / kBatch;
    std::vector<Failures> failures(threads);
    inParallel(threads, [&](std::size_t t) {
        Runner runner(*evaluation);
        for (std::size_t b = batches * t / threads; b < batches * (t + 1) / threads; ++b) {
            if (cancel.requested()) return;
            evaluateInto(set->bits, runner, b * kBatch, std::min(kBatch, rows - b * kBatch), failures[t]);
        }
    });
    if (cancel.requested()) return Error{ErrorCode::Cancelled, "Filtering was cancelled."};
    for (const Failures& part : failures) {
        set->failed += part.count;
        if (set->firstFailed || !part.first) continue;
        set->firstFailed = part.first;
        set->failure = part.state;
    }
    countBits(*set);
    return std::shared_ptr<const RecordSet>(std::move(set));
}

Result<std::shared_ptr<const RecordSet>> rowsWhereAgain(const RecordSet& before, std::span<const std::uint32_t> changed,
                                                        const std::shared_ptr<const Program>& condition,
                                                        const EvaluationInput& input) {
    EvaluationInput few = input;
    few.forFew = true;
    auto evaluation = Evaluation::prepare(condition, few, Cancel());
    if (!evaluation) return evaluation.error();
    Runner runner(*evaluation);
    auto set = std::make_shared<RecordSet>(before);
    for (const std::uint32_t row : changed) {
        const EvaluatedCell cell = cellOf(runner.run(row, 1), 0);
        const bool holds = cell.state == CellState::Filled && std::get<bool>(cell.value);
        const std::uint64_t bit = std::uint64_t{1} << (row & 63);
        if (holds != set->contains(row)) set->count = holds ? set->count + 1 : set->count - 1;
        set->bits[row >> 6] = holds ? set->bits[row >> 6] | bit : set->bits[row >> 6] & ~bit;
    }
    return std::shared_ptr<const RecordSet>(std::move(set));
}

std::shared_ptr<const RecordSet> intersection(std::span<const std::shared_ptr<const RecordSet>> sets,
                                              std::size_t rows) {
    if (sets.size() == 1) return sets.front();
    auto all = std::make_shared<RecordSet>();
    all->rows = rows;
    all->bits.assign((rows + 63) / 64, ~std::uint64_t{0});
    if (rows % 64 != 0) all->bits.back() = (std::uint64_t{1} << (rows % 64)) - 1;
    for (const auto& set : sets) {
        for (std::size_t i = 0; i < all->bits.size(); ++i) all->bits[i] &= set->bits[i];
        all->failed += set->failed;
        if (all->firstFailed || !set->firstFailed) continue;
        all->firstFailed = set->firstFailed;
        all->failure = set->failure;
    }
    countBits(*all);
    return all;
}

std::shared_ptr<const RecordSet> allBut(std::span<const std::uint32_t> absent, std::size_t rows) {
    RecordSet all;
    all.rows = rows;
    all.bits.assign((rows + 63) / 64, ~std::uint64_t{0});
    if (rows % 64 != 0) all.bits.back() = (std::uint64_t{1} << (rows % 64)) - 1;
    all.count = rows;
    return without(all, absent);
}

std::shared_ptr<const RecordSet> with(const RecordSet& set, std::span<const std::uint32_t> records) {
    auto next = std::make_shared<RecordSet>(set);
    for (const std::uint32_t row : records) next->bits[row >> 6] |= std::uint64_t{1} << (row & 63);
    countBits(*next);
    return next;
}

std::shared_ptr<const RecordSet> without(const RecordSet& set, std::span<const std::uint32_t> records) {
    auto next = std::make_shared<RecordSet>(set);
    for (const std::uint32_t row : records) next->bits[row >> 6] &= ~(std::uint64_t{1} << (row & 63));
    countBits(*next);
    return next;
}

std::shared_ptr<const RowOrder> chosen(const RowOrder* order, const RecordSet& set) {
    auto out = std::make_shared<RowOrder>(set.count);
    const std::size_t threads = threadsFor(set.rows, kParallelFrom);
    if (!order) {
        std::vector<std::size_t> starts(threads + 1);
        const std::size_t words = set.bits.size();
        for (std::size_t t = 0; t < threads; ++t) {
            std::size_t count = 0;
            for (std::size_t w = words * t / threads; w < words * (t + 1) / threads; ++w)
                count += static_cast<std::size_t>(std::popcount(set.bits[w]));
            starts[t + 1] = starts[t] + count;
        }
        inParallel(threads, [&](std::size_t t) {
            std::uint32_t* to = out->data() + starts[t];
            for (std::size_t w = words * t / threads; w < words * (t + 1) / threads; ++w)
                for (std::uint64_t word = set.bits[w]; word != 0; word &= word - 1)
                    *to++ = static_cast<std::uint32_t>(w * 64 + static_cast<std::size_t>(std::countr_zero(word)));
        });
        return out;
    }
    const std::size_t size = order->size();
    if (threads == 1) {
        std::size_t at = 0;
        for (const std::uint32_t row : *order)
            if (set.contains(row)) (*out)[at++] = row;
        return out;
    }
    // Each thread writes its part behind where it may at most begin; the parts are then moved together.
    std::vector<RowOrder> parts(threads);
    inParallel(threads, [&](std::size_t t) {
        const std::size_t begin = size * t / threads, end = size * (t + 1) / threads;
        RowOrder& part = parts[t];
        part.resize(end - begin + 1);
        std::uint32_t* to = part.data();
        for (std::size_t i = begin; i < end; ++i) {
            const std::uint32_t row = (*order)[i];
            *to = row;
            to += set.contains(row) ? 1 : 0;
        }
        part.resize(static_cast<std::size_t>(to - part.data()));
    });
    std::vector<std::size_t> starts(threads + 1);
    for (std::size_t t = 0; t < threads; ++t) starts[t + 1] = starts[t] + parts[t].size();
    inParallel(threads, [&](std::size_t t) {
        std::copy(parts[t].begin(), parts[t].end(), out->begin() + static_cast<std::ptrdiff_t>(starts[t]));
    });
    return out;
}

}  // namespace jollyrow
