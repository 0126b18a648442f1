// SPDX-License-Identifier: MIT
#pragma once
// All records of a snapshot in the order in which the source gave them, those inserted here behind them.

#include <type_traits>

#include "core/columns/room.h"
#include "core/rows/snapshot.h"

namespace jollyrow {

/// Calls visit(row) for each, until it says false where it says something. O(records).
template <class Visit>
void forEachBound(const Snapshot& snapshot, const Visit& visit) {
    const std::vector<std::uint32_t> absent = absentRows(*snapshot.table, snapshot.edits.get());
    auto next = absent.begin();
    for (std::uint32_t row = 0; row < snapshot.table->rows; ++row) {
        if (next != absent.end() && *next == row) {
            ++next;
            continue;
        }
        if constexpr (std::is_same_v<decltype(visit(SourceRow{})), bool>) {
            if (!visit(static_cast<SourceRow>(row))) return;
        } else {
            visit(static_cast<SourceRow>(row));
        }
    }
}

}  // namespace jollyrow
