// SPDX-License-Identifier: MIT
#pragma once
// Text order by the Unicode collation algorithm (UTS #10) with CLDR's root tailoring, through ICU, as ranks: each
// distinct value is compared once, afterwards text sorts as fast as integers.

#include <cstdint>
#include <map>
#include <memory>
#include <mutex>
#include <vector>

#include "core/base/cancel.h"
#include "core/base/result.h"
#include "core/columns/column.h"

namespace jollyrow {

/// Rank of each distinct value of a text column. Equal ranks compare equal. Immutable.
struct TextRanks {
    /// By code for a dictionary column, by row for an arena column; ranks are dense from 0.
    std::vector<std::uint32_t> ranks;
    std::uint32_t distinct = 0;
};

/// Ranks of a text column. O(n log n) key comparisons over distinct values (dictionary) or rows (arena).
Result<std::shared_ptr<const TextRanks>> rankText(const Column& column, const Cancel& cancel);

/// Keeps ranks by column identity, the most recent few. Locked inside.
class RankCache final {
  public:
    Result<std::shared_ptr<const TextRanks>> ranksOf(const Column& column, const Cancel& cancel);

  private:
    static constexpr std::size_t kKept = 16;
    std::mutex mutex_;
    std::map<std::uint64_t, std::shared_ptr<const TextRanks>> byColumn_;  // guarded by mutex_; ids rise with age
};

}  // namespace jollyrow
