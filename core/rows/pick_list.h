// SPDX-License-Identifier: MIT
#pragma once
// The distinct values of a column with how often each stands, in order: what a pick list offers.

#include <cstdint>
#include <memory>
#include <vector>

#include "core/base/cancel.h"
#include "core/base/result.h"
#include "core/columns/edits.h"
#include "core/rows/record_set.h"

namespace jollyrow {

struct PickEntry {
    Value value;
    std::int64_t count = 0;
};

struct PickList {
    std::vector<PickEntry> entries;  ///< in the order of the values; without the empty one
    std::int64_t empties = 0;
    std::int64_t misfits = 0;  ///< stored values that fit no value of the column's type
    std::int64_t records = 0;  ///< that were counted
};

/// Values of the records of `set` (null: of all). Texts in the order of `order`. O(rows + distinct log distinct);
/// values that stand in no record of the set are left out.
Result<std::shared_ptr<const PickList>> pickListOf(const Column& column, FieldIndex field, const Edits* edits,
                                                   const RecordSet* set, const TextOrder& order, RankCache& ranks,
                                                   const Cancel& cancel);

}  // namespace jollyrow
