// SPDX-License-Identifier: MIT
// Idea: one ICU sort key a distinct value, all in one arena; sort indexes by the keys' first 8 bytes as an integer and
// only on a tie by the rest. Example: {"Wren", "Åland", "alder"} -> ranks {2, 0, 1} or as the root collation has it.
// Cost: about 0.5 us a distinct value for the key. Covered by tests/rows/order_test.cpp.
#include "core/rows/collation.h"

#include <unicode/ucol.h>
#include <unicode/uiter.h>

#include <algorithm>
#include <bit>
#include <cstring>

namespace jollyrow {
namespace {

constexpr std::size_t kPollEvery = 4096;

struct KeyRef {
    std::uint64_t prefix = 0;
    std::uint64_t offset = 0;
    std::uint32_t length = 0;
    std::uint32_t index = 0;
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

    /// Appends the sort key of `text` without its closing zero.
    void appendKey(std::string& out, std::string_view text) const {
        UCharIterator iterator;
        uiter_setUTF8(&iterator, text.data(), static_cast<std::int32_t>(std::min<std::size_t>(text.size(), 1 << 20)));
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
    UCollator* collator_ = nullptr;
};

std::uint64_t prefixOf(std::string_view key) {
    std::uint64_t word = 0;
    std::memcpy(&word, key.data(), std::min<std::size_t>(8, key.size()));
    return std::endian::native == std::endian::little ? __builtin_bswap64(word) : word;
}

}  // namespace

Result<std::shared_ptr<const TextRanks>> rankText(const Column& column, const TextOrder& order, const Cancel& cancel) {
    const auto* dictionary = std::get_if<TextDictionary>(&column.storage());
    const TextArena& arena = dictionary ? dictionary->distinct : std::get<TextArena>(column.storage());
    const Collator collator(order);
    if (!collator.usable()) return Error{ErrorCode::Io, "The text collation data of this system could not be opened."};
    std::string keys;
    std::vector<KeyRef> refs(arena.size());
    for (std::size_t i = 0; i < refs.size(); ++i) {
        if (i % kPollEvery == 0 && cancel.requested()) return Error{ErrorCode::Cancelled, "Sorting was cancelled."};
        const std::size_t start = keys.size();
        collator.appendKey(keys, arena.at(i));
        const std::string_view key = std::string_view(keys).substr(start);
        refs[i] = {prefixOf(key), start, static_cast<std::uint32_t>(key.size()), static_cast<std::uint32_t>(i)};
    }
    const std::string_view all = keys;
    std::sort(refs.begin(), refs.end(), [all](const KeyRef& a, const KeyRef& b) {
        if (a.prefix != b.prefix) return a.prefix < b.prefix;
        return all.substr(a.offset, a.length) < all.substr(b.offset, b.length);
    });
    auto result = std::make_shared<TextRanks>();
    result->ranks.resize(refs.size());
    std::uint32_t rank = 0;
    for (std::size_t i = 0; i < refs.size(); ++i) {
        if (i != 0 && all.substr(refs[i].offset, refs[i].length) != all.substr(refs[i - 1].offset, refs[i - 1].length))
            ++rank;
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
        return static_cast<std::int32_t>(std::min<std::size_t>(text.size(), 1 << 20));
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
