// SPDX-License-Identifier: MIT
#pragma once
// Text order by the Unicode collation algorithm (UTS #10) with CLDR's root tailoring, through ICU, as ranks: each
// distinct value is compared once, afterwards text sorts as fast as integers.

#include <cstdint>
#include <map>
#include <memory>
#include <mutex>
#include <string_view>
#include <utility>
#include <vector>

#include "core/base/cancel.h"
#include "core/base/result.h"
#include "core/columns/column.h"
#include "core/columns/sort_key.h"

namespace jollyrow {

/// Rank of each distinct value of a text column. Equal ranks compare equal. Immutable.
struct TextRanks {
    /// By code for a dictionary column, by row for an arena column; ranks are dense from 0.
    std::vector<std::uint32_t> ranks;
    std::uint32_t distinct = 0;
};

/// Ranks of a text column. O(n log n) key comparisons over distinct values (dictionary) or rows (arena).
/// An unknown locale falls back to the root collation, as ICU has it.
Result<std::shared_ptr<const TextRanks>> rankText(const Column& column, const TextOrder& order, const Cancel& cancel);

/// Compares texts by one order; for the few that are not ranked yet (edited cells). Confined to one thread.
class TextComparator final {
  public:
    explicit TextComparator(const TextOrder& order);
    ~TextComparator();
    TextComparator(const TextComparator&) = delete;
    TextComparator& operator=(const TextComparator&) = delete;
    int compare(std::string_view a, std::string_view b) const;

  private:
    void* collator_ = nullptr;
};

/// Keeps ranks by column identity and order, the most recent few. Locked inside.
class RankCache final {
  public:
    Result<std::shared_ptr<const TextRanks>> ranksOf(const Column& column, const TextOrder& order,
                                                     const Cancel& cancel);

  private:
    static constexpr std::size_t kKept = 16;
    std::mutex mutex_;
    std::map<std::pair<std::uint64_t, TextOrder>, std::shared_ptr<const TextRanks>>
        byColumn_;  // guarded by mutex_; ids rise with age
};

}  // namespace jollyrow
