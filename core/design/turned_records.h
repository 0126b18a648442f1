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

/// The field of the made table that says of a line whether the records differ in it: no column of its design.
inline constexpr const char* kDiffers = "differs";

/// Values as the grid shows them at this moment. A line is tinted on which the records differ, in what is shown or in
/// what is behind it: two numbers may be rounded to one text, two names be those of two records. Pictures are told
/// apart by their lengths as long as they are in the database alone. Fails for no records, no columns, and more than
/// kMostTableColumns - 1 records. O(records * columns). Any thread.
Result<SummaryTable> turnedRecords(const Snapshot& snapshot, const ViewPlan& plan, const Design& design,
                                   std::span<const NamedRecord> records);

}  // namespace jollyrow
