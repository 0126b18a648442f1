// SPDX-License-Identifier: MIT
// Idea: write all keys of a record one after the other into one integer, most important first, and the row number as
// its lowest bits; sort those integers with Highway's vectorised quicksort; the lowest bits are the order. The row
// number makes an unstable sort stable and, since it is never inverted, keeps ties in bound order when descending.
// Example: 1000 rows, days 20000..20100 descending: code = 20100 - day (7 bits), word = code << 10 | row.
// A word is 64 bits when keys and row fit, else 128; when they do not fit that either, the leading keys are sorted
// first and replaced by the dense rank they give. Large sorts use up to four threads: words are dealt into as many
// buckets by pivots from a sample, each bucket is sorted by a thread of its own. Cost: see docs/bench.md. Covered by
// tests/rows/order_test.cpp.
#include "core/rows/row_order.h"

#include <hwy/contrib/sort/vqsort.h>

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <limits>
#include <utility>

#include "core/rows/parallel.h"

namespace jollyrow {
namespace {

using Word128 = hwy::uint128_t;

/// Order-preserving unsigned code of each row for one key.
struct KeyCodes {
    int bits = 0;
    std::vector<std::uint64_t> wide;     ///< codes, when computed up front
    const SortColumn* source = nullptr;  ///< else computed while packing
    std::shared_ptr<const TextRanks> ranks;
    std::int64_t low = 0, high = 0;
    std::uint64_t emptyCode = 0;
    std::uint64_t shiftUp = 0;  ///< 1 when code 0 is the empties'
};

int bitsFor(std::uint64_t largest) { return static_cast<int>(std::bit_width(largest)); }

template <class T>
void rangeOf(std::span<const T> values, const Column& column, std::int64_t& low, std::int64_t& high) {
    T least = std::numeric_limits<T>::max(), most = std::numeric_limits<T>::min();
    if (column.emptyCount() == 0) {
        for (const T v : values) {
            least = v < least ? v : least;
            most = v > most ? v : most;
        }
    } else {
        for (std::size_t i = 0; i < values.size(); ++i) {
            if (column.isEmpty(static_cast<SourceRow>(i))) continue;
            least = values[i] < least ? values[i] : least;
            most = values[i] > most ? values[i] : most;
        }
    }
    low = least <= most ? static_cast<std::int64_t>(least) : 0;
    high = least <= most ? static_cast<std::int64_t>(most) : 0;
}

/// Bits of a double such that unsigned order is numeric order; NaN after everything, as in PostgreSQL; -0 equals 0.
std::uint64_t orderedBits(double value) {
    if (std::isnan(value)) return std::numeric_limits<std::uint64_t>::max();
    if (value == 0) value = 0;
    const auto bits = std::bit_cast<std::uint64_t>(value);
    return (bits >> 63) != 0 ? ~bits : bits | (std::uint64_t{1} << 63);
}

/// Of mantissas of 128 bits, their places among the different ones.
std::vector<std::uint64_t> wideRanks(const Column& column, std::size_t rows) {
    std::vector<Int128> sorted;
    for (std::size_t i = 0; i < rows; ++i)
        if (!column.isEmpty(static_cast<SourceRow>(i)))
            sorted.push_back(column.decimal(static_cast<SourceRow>(i)).mantissa);
    std::sort(sorted.begin(), sorted.end());
    sorted.erase(std::unique(sorted.begin(), sorted.end()), sorted.end());
    std::vector<std::uint64_t> ranks(rows, 0);
    for (std::size_t i = 0; i < rows; ++i) {
        const auto row = static_cast<SourceRow>(i);
        if (column.isEmpty(row)) continue;
        const auto at = std::lower_bound(sorted.begin(), sorted.end(), column.decimal(row).mantissa);
        ranks[i] = static_cast<std::uint64_t>(at - sorted.begin());
    }
    return ranks;
}

/// Codes of doubles, wide decimals and of integers whose range leaves no room for an empties' code: dense ranks by
/// sorting.
KeyCodes rankedCodes(const SortColumn& key, std::size_t rows) {
    std::vector<std::uint64_t> raw64(rows);
    const Column& column = *key.column;
    if (column.isWide()) raw64 = wideRanks(column, rows);
    for (std::size_t i = 0; i < rows && !column.isWide(); ++i) {
        const auto row = static_cast<SourceRow>(i);
        if (column.isEmpty(row)) continue;
        raw64[i] = column.type() == Type::Real
                       ? orderedBits(column.real(row))
                       : static_cast<std::uint64_t>(column.integer(row)) ^ (std::uint64_t{1} << 63);
    }
    KeyCodes codes;
    if (column.emptyCount() == 0) {
        if (key.direction == Direction::Descending)
            for (std::uint64_t& v : raw64) v = ~v;
        codes.bits = 64;
        codes.wide = std::move(raw64);
        return codes;
    }
    std::vector<std::uint64_t> sorted = raw64;
    hwy::Sorter()(sorted.data(), sorted.size(), hwy::SortAscending());
    sorted.erase(std::unique(sorted.begin(), sorted.end()), sorted.end());
    const std::uint64_t last = sorted.size() - 1;
    for (std::size_t i = 0; i < rows; ++i) {
        if (column.isEmpty(static_cast<SourceRow>(i))) {
            raw64[i] = key.empties == Empties::First ? 0 : last + 2;
            continue;
        }
        const auto rank =
            static_cast<std::uint64_t>(std::lower_bound(sorted.begin(), sorted.end(), raw64[i]) - sorted.begin());
        raw64[i] = (key.direction == Direction::Descending ? last - rank : rank) + 1;
    }
    codes.bits = bitsFor(last + 2);
    codes.wide = std::move(raw64);
    return codes;
}

Result<KeyCodes> codesOf(const SortColumn& key, std::size_t rows, RankCache& cache, const Cancel& cancel) {
    const Column& column = *key.column;
    KeyCodes codes;
    codes.source = &key;
    if (column.type() == Type::Real || column.isWide()) return rankedCodes(key, rows);
    if (isIntegral(column.type())) {
        std::visit(
            [&](const auto& storage) {
                using S = std::decay_t<decltype(storage)>;
                if constexpr (std::is_same_v<S, SharedSpan<std::int8_t>> ||
                              std::is_same_v<S, SharedSpan<std::int32_t>> ||
                              std::is_same_v<S, SharedSpan<std::int64_t>>)
                    rangeOf(storage.span(), column, codes.low, codes.high);
            },
            column.storage());
    } else {
        auto ranks = cache.ranksOf(column, key.text, cancel);
        if (!ranks) return ranks.error();
        codes.ranks = *ranks;
        codes.high = codes.ranks->distinct == 0 ? 0 : codes.ranks->distinct - 1;
    }
    const std::uint64_t range = static_cast<std::uint64_t>(codes.high) - static_cast<std::uint64_t>(codes.low);
    const bool hasEmpties = column.emptyCount() != 0;
    if (range == std::numeric_limits<std::uint64_t>::max()) return rankedCodes(key, rows);
    codes.shiftUp = hasEmpties && key.empties == Empties::First ? 1 : 0;
    codes.emptyCode = codes.shiftUp == 1 ? 0 : range + 1;
    codes.bits = bitsFor(range + (hasEmpties ? 1 : 0));
    return codes;
}

void orInto(std::uint64_t& word, std::uint64_t code, int shift) { word |= code << shift; }
void orInto(Word128& word, std::uint64_t code, int shift) {
    if (shift >= 64) {
        word.hi |= code << (shift - 64);
    } else {
        word.lo |= code << shift;
        if (shift != 0) word.hi |= code >> (64 - shift);
    }
}

template <class Word>
using Words = std::vector<Word, PageAllocator<Word>>;

struct Range {
    std::size_t begin = 0, end = 0;
};

/// Codes computed on the fly from a span of stored values, where descending is "high - v".
template <class Word, class At>
void packWith(Words<Word>& words, Range range, int shift, const KeyCodes& codes, At&& at) {
    const Column& column = *codes.source->column;
    const bool descending = codes.source->direction == Direction::Descending;
    const auto low = static_cast<std::uint64_t>(codes.low), high = static_cast<std::uint64_t>(codes.high);
    const std::span<const std::uint64_t> valid = column.validity();
    if (valid.empty()) {
        if (descending)
            for (std::size_t i = range.begin; i < range.end; ++i) orInto(words[i], high - at(i), shift);
        else
            for (std::size_t i = range.begin; i < range.end; ++i) orInto(words[i], at(i) - low, shift);
        return;
    }
    for (std::size_t i = range.begin; i < range.end; ++i) {
        const bool filled = ((valid[i >> 6] >> (i & 63)) & 1) != 0;
        const std::uint64_t code = descending ? high - at(i) : at(i) - low;
        orInto(words[i], filled ? code + codes.shiftUp : codes.emptyCode, shift);
    }
}

template <class Word>
void pack(Words<Word>& words, Range range, int shift, const KeyCodes& codes) {
    if (!codes.wide.empty()) {
        for (std::size_t i = range.begin; i < range.end; ++i) orInto(words[i], codes.wide[i], shift);
        return;
    }
    if (codes.bits == 0) return;
    std::visit(
        [&](const auto& storage) {
            using S = std::decay_t<decltype(storage)>;
            if constexpr (std::is_same_v<S, TextDictionary>) {
                const auto& ranks = codes.ranks->ranks;
                packWith(words, range, shift, codes,
                         [&](std::size_t i) { return static_cast<std::uint64_t>(ranks[storage.codes[i]]); });
            } else if constexpr (std::is_same_v<S, TextArena>) {
                const auto& ranks = codes.ranks->ranks;
                packWith(words, range, shift, codes,
                         [&](std::size_t i) { return static_cast<std::uint64_t>(ranks[i]); });
            } else if constexpr (!std::is_same_v<S, SharedSpan<double>>) {
                const auto* values = storage.data();
                packWith(words, range, shift, codes, [values](std::size_t i) {
                    return static_cast<std::uint64_t>(static_cast<std::int64_t>(values[i]));
                });
            }
        },
        codes.source->column->storage());
}

constexpr std::size_t kParallelSortFrom = 131072;  // rows; below, threads cost more than they save

bool less(std::uint64_t a, std::uint64_t b) { return a < b; }
bool less(const Word128& a, const Word128& b) { return a.hi < b.hi || (a.hi == b.hi && a.lo < b.lo); }

/// Row numbers and codes of a range of rows.
template <class Word>
void fill(Words<Word>& words, Range range, std::span<const KeyCodes> keys, int rowBits) {
    for (std::size_t i = range.begin; i < range.end; ++i) {
        Word word{};
        orInto(word, i, 0);
        words[i] = word;
    }
    int shift = rowBits;
    for (std::size_t k = keys.size(); k-- > 0;) {
        pack(words, range, shift, keys[k]);
        shift += keys[k].bits;
    }
}

/// Values that cut the words into about equal parts, from a sample.
template <class Word>
std::array<Word, kMostThreads - 1> pivotsOf(const Words<Word>& words, std::size_t parts) {
    std::vector<Word> sample(1024);
    for (std::size_t i = 0; i < sample.size(); ++i) sample[i] = words[i * words.size() / sample.size()];
    std::sort(sample.begin(), sample.end(), [](const Word& a, const Word& b) { return less(a, b); });
    std::array<Word, kMostThreads - 1> pivots{};
    for (std::size_t k = 0; k + 1 < parts; ++k) pivots[k] = sample[(k + 1) * sample.size() / parts];
    return pivots;
}

template <class Word>
Words<Word> sortedInParallel(std::span<const KeyCodes> keys, std::size_t rows, int rowBits, std::size_t threads) {
    Words<Word> words(rows);
    const auto part = [rows, threads](std::size_t t) { return Range{rows * t / threads, rows * (t + 1) / threads}; };
    inParallel(threads, [&](std::size_t t) { fill(words, part(t), keys, rowBits); });
    const auto pivots = pivotsOf(words, threads);
    const auto bucketOf = [&](const Word& word) {
        std::size_t bucket = 0;
        for (std::size_t k = 0; k + 1 < threads; ++k) bucket += less(word, pivots[k]) ? 0 : 1;
        return bucket;
    };
    std::array<std::array<std::size_t, kMostThreads>, kMostThreads> counts{};  // by reading thread, then bucket
    inParallel(threads, [&](std::size_t t) {
        std::array<std::size_t, kMostThreads> mine{};
        for (std::size_t i = part(t).begin; i < part(t).end; ++i) ++mine[bucketOf(words[i])];
        counts[t] = mine;
    });
    std::array<std::size_t, kMostThreads + 1> starts{};
    auto places = counts;
    for (std::size_t bucket = 0, at = 0; bucket < threads; ++bucket) {
        starts[bucket] = at;
        for (std::size_t t = 0; t < threads; ++t) at += std::exchange(places[t][bucket], at);
        starts[bucket + 1] = at;
    }
    Words<Word> dealt(rows);
    inParallel(threads, [&](std::size_t t) {
        auto mine = places[t];
        for (std::size_t i = part(t).begin; i < part(t).end; ++i) dealt[mine[bucketOf(words[i])]++] = words[i];
    });
    inParallel(threads, [&](std::size_t t) {
        hwy::Sorter()(dealt.data() + starts[t], starts[t + 1] - starts[t], hwy::SortAscending());
    });
    return dealt;
}

/// Rows in the order of the keys, whose bits and the row's fit a Word.
template <class Word>
Words<Word> sortedWords(std::span<const KeyCodes> keys, std::size_t rows, int rowBits) {
    if (const std::size_t threads = threadsFor(rows, kParallelSortFrom); threads > 1)
        return sortedInParallel<Word>(keys, rows, rowBits, threads);
    Words<Word> words(rows);
    fill(words, {0, rows}, keys, rowBits);
    hwy::Sorter()(words.data(), rows, hwy::SortAscending());
    return words;
}

std::uint32_t rowOf(std::uint64_t word, std::uint64_t mask) { return static_cast<std::uint32_t>(word & mask); }
std::uint32_t rowOf(const Word128& word, std::uint64_t mask) { return static_cast<std::uint32_t>(word.lo & mask); }

template <class Word>
std::shared_ptr<const RowOrder> orderOf(const Words<Word>& words, int rowBits) {
    auto order = std::make_shared<RowOrder>(words.size());
    const std::uint64_t mask = (std::uint64_t{1} << rowBits) - 1;
    const std::size_t threads = threadsFor(words.size(), kParallelSortFrom);
    inParallel(threads, [&](std::size_t t) {
        for (std::size_t i = words.size() * t / threads; i < words.size() * (t + 1) / threads; ++i)
            (*order)[i] = rowOf(words[i], mask);
    });
    return order;
}

/// Replaces keys by one whose codes are their dense rank; needs them to fit 128 bits with the row.
KeyCodes joined(std::span<const KeyCodes> keys, std::size_t rows, int rowBits) {
    const Words<Word128> words = sortedWords<Word128>(keys, rows, rowBits);
    KeyCodes out;
    out.wide.resize(rows);
    const std::uint64_t mask = (std::uint64_t{1} << rowBits) - 1;
    std::uint64_t rank = 0;
    for (std::size_t i = 0; i < rows; ++i) {
        if (i != 0 && (words[i].hi != words[i - 1].hi || (words[i].lo & ~mask) != (words[i - 1].lo & ~mask))) ++rank;
        out.wide[rowOf(words[i], mask)] = rank;
    }
    out.bits = std::max(1, bitsFor(rank));
    return out;
}

}  // namespace

Result<std::shared_ptr<const RowOrder>> sortRows(std::span<const SortColumn> keys, std::size_t rows, RankCache& ranks,
                                                 const Cancel& cancel) {
    const Error cancelled{ErrorCode::Cancelled, "Sorting was cancelled."};
    if (rows == 0) return std::make_shared<const RowOrder>();
    const int rowBits = std::max(1, bitsFor(rows - 1));
    std::vector<KeyCodes> codes;
    int bits = rowBits;
    for (const SortColumn& key : keys) {
        if (cancel.requested()) return cancelled;
        auto made = codesOf(key, rows, ranks, cancel);
        if (!made) return made.error();
        if (bits + made->bits > 128) {
            KeyCodes merged = joined(codes, rows, rowBits);
            codes.clear();
            bits = rowBits + merged.bits;
            codes.push_back(std::move(merged));
        }
        bits += made->bits;
        codes.push_back(std::move(*made));
    }
    if (cancel.requested()) return cancelled;
    if (bits <= 64) return orderOf(sortedWords<std::uint64_t>(codes, rows, rowBits), rowBits);
    return orderOf(sortedWords<Word128>(codes, rows, rowBits), rowBits);
}

}  // namespace jollyrow
