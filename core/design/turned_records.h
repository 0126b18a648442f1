// SPDX-License-Identifier: MIT
#pragma once
// Some records side by side: a line for each column of their grid, a column for each record.

#include <span>
#include <string>

#include "core/design/summary_table.h"
#include "core/rows/snapshot.h"

namespace jollyrow {

struct ViewPlan;

struct NamedRecord {
    SourceRow row{};
    std::string name;  ///< stands over it; "": its place, from 1
};

/// Values as the grid shows them; a line on which they differ is tinted. Fails for no records, no columns, and more
/// than kMostTableColumns - 1 records. O(records * columns). Any thread.
Result<SummaryTable> turnedRecords(const Snapshot& snapshot, const ViewPlan& plan, const Design& design,
                                   std::span<const NamedRecord> records);

}  // namespace jollyrow
