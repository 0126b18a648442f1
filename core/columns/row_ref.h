// SPDX-License-Identifier: MIT
#pragma once
// RowRef: a record as something that is kept (an editor, an application's Record, a selection) names it. A row number
// is meant within one table only; over a reload the key finds the record again.

#include <cstdint>

#include "core/columns/table.h"

namespace jollyrow {

struct RowRef {
    std::uint32_t epoch = 0;  ///< of the table that `row` counts in (Snapshot::epoch)
    SourceRow row = kNoRow;
    RecordKey key = {};        ///< as the store had it when the reference was made; empty where records have none
    std::size_t keyMoves = 0;  ///< how many edits of keys had been saved by then (Session::now follows later ones)
};

}  // namespace jollyrow
