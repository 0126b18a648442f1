// SPDX-License-Identifier: MIT
// Idea: one ICU sort key a distinct value, made by several threads; the keys are sorted eight bytes at a time as
// integers, each run of equal ones by its next eight. Example: {"Wren", "Åland", "alder"} -> ranks {2, 0, 1} or as the
// root collation has it. Cost: about 0.5 us a distinct value and thread. Covered by tests/rows/order_test.cpp.
#include "core/rows/collation.h"

#include <unicode/ucol.h>
#include <unicode/uiter.h>
#include <unicode/ustring.h>

#include <algorithm>
#include <bit>
#include <cstring>
#include <span>

#include "core/rows/parallel.h"

namespace jollyrow {
namespace {

constexpr std::size_t kPollEvery = 4096;
/// Bytes of a text that count for its order.
constexpr std::size_t kMostCollated = std::size_t{1} << 20;
/// A column with a longer text has its keys made at once: piecewise they take the square of the length.
constexpr std::size_t kLongText = 2048;

constexpr std::size_t kParallelKeysFrom = 8192;
constexpr std::size_t kShortRun = 12;

struct KeyRef {
    std::uint64_t word = 0;      ///< eight bytes of the key, the most significant first
    const char* data = nullptr;  ///< the key's bytes
    std::uint32_t length = 0;
    std::uint32_t index = 0;

    std::string_view key() const { return {data, length}; }
};

UCollator* opened(const TextOrder& order) {
    UErrorCode status = U_ZERO_ERROR;
    UCollator* collator = ucol_open(order.locale.c_str(), &status);
    if (U_FAILURE(status)) return nullptr;
    status = U_ZERO_ERROR;
    if (order.natural) ucol_setAttribute(collator, UCOL_NUMERIC_COLLATION, UCOL_ON, &status);
    if (order.strength == TextStrength::IgnoreCase) ucol_setStrength(collator, UCOL_SECONDARY);
    if (order.strength == TextStrength::Letters || order.strength == TextStrength::IgnoreAccents)
        ucol_setStrength(collator, UCOL_PRIMARY);
    if (order.strength == TextStrength::IgnoreAccents) ucol_setAttribute(collator, UCOL_CASE_LEVEL, UCOL_ON, &status);
    return collator;
}

class Collator {
  public:
    explicit Collator(const TextOrder& order) : collator_(opened(order)) {}
    ~Collator() { ucol_close(collator_); }
    Collator(const Collator&) = delete;
    Collator& operator=(const Collator&) = delete;
    bool usable() const { return collator_ != nullptr; }

    /// Appends the sort key of `text` without its closing zero. Keys compare with those made in the same way only.
    enum class Way {
        Piecewise,  ///< quickest for short texts; each piece begins again at the first character
        AtOnce,
    };
    void appendKey(std::string& out, std::string_view text, Way way) {
        const auto length = static_cast<std::int32_t>(std::min(text.size(), kMostCollated));
        if (way == Way::AtOnce) return appendAtOnce(out, text.data(), length);
        UCharIterator iterator;
        uiter_setUTF8(&iterator, text.data(), length);
        std::uint32_t state[2] = {0, 0};
        std::uint8_t piece[256];
        for (;;) {
            UErrorCode status = U_ZERO_ERROR;
            const std::int32_t got = ucol_nextSortKeyPart(collator_, &iterator, state, piece, sizeof piece, &status);
            if (got <= 0 || U_FAILURE(status)) return;
            out.append(reinterpret_cast<const char*>(piece), static_cast<std::size_t>(got));
            if (got < static_cast<std::int32_t>(sizeof piece)) return;
        }
    }

  private:
    void appendAtOnce(std::string& out, const char* text, std::int32_t length) {
        if (length == 0) return;
        units_.resize(static_cast<std::size_t>(length));  // never more than bytes
        std::int32_t units = 0;
        UErrorCode status = U_ZERO_ERROR;
        u_strFromUTF8WithSub(units_.data(), length, &units, text, length, 0xFFFD, nullptr, &status);
        if (U_FAILURE(status)) return;
        const std::size_t begin = out.size();
        for (std::int32_t room = 2 * units + 64;;) {
            out.resize(begin + static_cast<std::size_t>(room));
            const std::int32_t needed = ucol_getSortKey(collator_, units_.data(), units,
                                                        reinterpret_cast<std::uint8_t*>(out.data() + begin), room);
            if (needed <= room) return out.resize(begin + static_cast<std::size_t>(std::max(needed, 1)) - 1);
            room = needed;
        }
    }

    UCollator* collator_ = nullptr;
    std::vector<UChar> units_;
};

/// Bytes from `at` on as an integer that orders as they do; zeros behind the end, which no key has inside.
std::uint64_t wordOf(const KeyRef& ref, std::size_t at) {
    if (at >= ref.length) return 0;
    std::uint64_t word = 0;
    std::memcpy(&word, ref.data + at, std::min<std::size_t>(8, ref.length - at));
    return std::endian::native == std::endian::little ? __builtin_bswap64(word) : word;
}

using Run = std::span<KeyRef>;

/// Sorts a run whose keys are alike up to `depth` bytes. The stack holds runs instead of calls, so that long common
/// beginnings nest nothing.
void sortRun(Run whole, std::size_t depth) {
    std::vector<std::pair<Run, std::size_t>> open{{whole, depth}};
    while (!open.empty()) {
        const auto [run, at] = open.back();
        open.pop_back();
        if (run.size() < 2) continue;
        if (run.size() <= kShortRun) {
            std::sort(run.begin(), run.end(), [](const KeyRef& a, const KeyRef& b) { return a.key() < b.key(); });
            continue;
        }
        for (KeyRef& ref : run) ref.word = wordOf(ref, at);
        std::sort(run.begin(), run.end(), [](const KeyRef& a, const KeyRef& b) { return a.word < b.word; });
        for (std::size_t begin = 0, end = 0; begin < run.size(); begin = end) {
            bool goesOn = false;
            for (end = begin; end < run.size() && run[end].word == run[begin].word; ++end)
                goesOn = goesOn || run[end].length > at + 8;
            if (goesOn && end - begin > 1) open.emplace_back(run.subspan(begin, end - begin), at + 8);
        }
    }
}

/// Parts by thread, sorted apart and merged.
void sortKeys(std::vector<KeyRef>& refs, std::size_t threads) {
    if (threads < 2) return sortRun(refs, 0);
    const auto at = [&](std::size_t t) { return refs.size() * t / threads; };
    inParallel(threads, [&](std::size_t t) { sortRun(Run(refs).subspan(at(t), at(t + 1) - at(t)), 0); });
    const auto less = [](const KeyRef& a, const KeyRef& b) {
        return a.word != b.word ? a.word < b.word : a.key() < b.key();
    };
    for (KeyRef& ref : refs) ref.word = wordOf(ref, 0);
    for (std::size_t t = 1; t < threads; ++t)
        std::inplace_merge(refs.begin(), refs.begin() + static_cast<std::ptrdiff_t>(at(t)),
                           refs.begin() + static_cast<std::ptrdiff_t>(at(t + 1)), less);
}

}  // namespace

Result<std::shared_ptr<const TextRanks>> rankText(const Column& column, const TextOrder& order, const Cancel& cancel) {
    const auto* dictionary = std::get_if<TextDictionary>(&column.storage());
    const TextArena& arena = dictionary ? dictionary->distinct : std::get<TextArena>(column.storage());
    if (!Collator(order).usable())
        return Error{ErrorCode::Io, "The text collation data of this system could not be opened."};
    std::vector<KeyRef> refs(arena.size());
    const std::size_t threads = threadsFor(refs.size(), kParallelKeysFrom);
    std::vector<std::string> keys(threads);
    bool isLong = false;
    for (std::size_t i = 0; i < arena.size() && !isLong; ++i) isLong = arena.at(i).size() > kLongText;
    const auto way = isLong ? Collator::Way::AtOnce : Collator::Way::Piecewise;
    inParallel(threads, [&](std::size_t t) {
        Collator collator(order);
        const std::size_t begin = refs.size() * t / threads, end = refs.size() * (t + 1) / threads;
        for (std::size_t i = begin; i < end; ++i) {
            if ((isLong || i % kPollEvery == 0) && cancel.requested()) return;
            const std::size_t start = keys[t].size();
            collator.appendKey(keys[t], arena.at(i), way);
            refs[i].length = static_cast<std::uint32_t>(keys[t].size() - start);
            refs[i].index = static_cast<std::uint32_t>(i);
        }
        const char* data = keys[t].data();
        for (std::size_t i = begin; i < end; ++i) {
            refs[i].data = data;
            data += refs[i].length;
        }
    });
    if (cancel.requested()) return Error{ErrorCode::Cancelled, "Sorting was cancelled."};
    sortKeys(refs, threads);
    auto result = std::make_shared<TextRanks>();
    result->ranks.resize(refs.size());
    std::uint32_t rank = 0;
    for (std::size_t i = 0; i < refs.size(); ++i) {
        if (i != 0 && refs[i].key() != refs[i - 1].key()) ++rank;
        result->ranks[refs[i].index] = rank;
    }
    result->distinct = refs.empty() ? 0 : rank + 1;
    return std::shared_ptr<const TextRanks>(std::move(result));
}

TextComparator::TextComparator(const TextOrder& order) : collator_(opened(order)) {}
TextComparator::~TextComparator() { ucol_close(static_cast<UCollator*>(collator_)); }

int TextComparator::compare(std::string_view a, std::string_view b) const {
    if (!collator_) return a.compare(b);
    UErrorCode status = U_ZERO_ERROR;
    const auto length = [](std::string_view text) {
        return static_cast<std::int32_t>(std::min(text.size(), kMostCollated));
    };
    return ucol_strcollUTF8(static_cast<UCollator*>(collator_), a.data(), length(a), b.data(), length(b), &status);
}

Result<std::shared_ptr<const TextRanks>> RankCache::ranksOf(const Column& column, const TextOrder& order,
                                                            const Cancel& cancel) {
    const std::pair key(column.id(), order);
    {
        const std::lock_guard lock(mutex_);
        if (const auto found = byColumn_.find(key); found != byColumn_.end()) return found->second;
    }
    auto ranks = rankText(column, order, cancel);
    if (!ranks) return ranks;
    const std::lock_guard lock(mutex_);
    byColumn_.insert_or_assign(key, *ranks);
    if (byColumn_.size() > kKept) byColumn_.erase(byColumn_.begin());
    return ranks;
}

}  // namespace jollyrow
