// SPDX-License-Identifier: MIT
// Idea: a record's section is how many heads there are up to it, so one counting sort over these numbers keeps the
// order within each. Covered by tests/rows/sections_test.cpp.
#include "core/rows/sections.h"

#include <bit>

namespace jollyrow {

std::shared_ptr<const RecordSet> unionOf(std::span<const std::shared_ptr<const RecordSet>> sets, std::size_t rows) {
    auto out = std::make_shared<RecordSet>();
    out->rows = rows;
    out->bits.assign((rows + 63) / 64, 0);
    for (const auto& set : sets)
        for (std::size_t w = 0; w < std::min(out->bits.size(), set->bits.size()); ++w) out->bits[w] |= set->bits[w];
    for (const std::uint64_t word : out->bits) out->count += static_cast<std::size_t>(std::popcount(word));
    return out;
}

std::shared_ptr<const RecordSet> withHeads(const RecordSet& shown, const RecordSet& heads) {
    auto out = std::make_shared<RecordSet>(shown);
    std::size_t head = shown.rows;  // of the section at work; none yet
    const auto keep = [&](std::size_t row) {
        if (row < shown.rows) out->bits[row >> 6] |= std::uint64_t{1} << (row & 63);
    };
    for (std::size_t w = 0; w < out->bits.size(); ++w) {
        const std::uint64_t records = shown.bits[w];
        std::uint64_t left = w < heads.bits.size() ? heads.bits[w] : 0;
        std::uint64_t from = ~std::uint64_t{0};  // bits of the section at work
        while (left != 0) {
            const int at = std::countr_zero(left);
            const std::uint64_t before = (std::uint64_t{1} << at) - 1;
            if ((records & from & before) != 0) keep(head);
            head = w * 64 + static_cast<std::size_t>(at);
            from = ~before;
            left &= left - 1;
        }
        if ((records & from) != 0) keep(head);
    }
    out->count = 0;
    for (const std::uint64_t word : out->bits) out->count += static_cast<std::size_t>(std::popcount(word));
    return out;
}

std::shared_ptr<const RowOrder> bySection(const RowOrder& order, const RecordSet& heads) {
    // By word of the bits: how many heads stand before it.
    std::vector<std::uint32_t> before(heads.bits.size() + 1, 0);
    for (std::size_t w = 0; w < heads.bits.size(); ++w)
        before[w + 1] = before[w] + static_cast<std::uint32_t>(std::popcount(heads.bits[w]));
    const auto sectionOf = [&](std::uint32_t row) {
        const std::size_t word = row >> 6;
        if (word >= heads.bits.size()) return before.back();
        const std::uint64_t upTo = ~std::uint64_t{0} >> (63 - (row & 63));
        return before[word] + static_cast<std::uint32_t>(std::popcount(heads.bits[word] & upTo));
    };
    // Each section has a place for its head in front.
    std::vector<std::uint32_t> places(2 * (std::size_t{before.back()} + 1) + 1, 0);
    const auto slotOf = [&](std::uint32_t row) {
        return std::size_t{sectionOf(row)} * 2 + (heads.contains(row) ? 0 : 1);
    };
    for (const std::uint32_t row : order) ++places[slotOf(row) + 1];
    for (std::size_t i = 1; i < places.size(); ++i) places[i] += places[i - 1];
    auto out = std::make_shared<RowOrder>(order.size());
    for (const std::uint32_t row : order) (*out)[places[slotOf(row)]++] = row;
    return out;
}

}  // namespace jollyrow
