// SPDX-License-Identifier: MIT
#pragma once
// What copying takes: selected records or the block of cells as text, tabs between columns, a line a record.

#include <QString>

#include <string>
#include <vector>

#include "core/design/plan.h"
#include "grid/layout/shown_rows.h"
#include "grid/select/selection.h"

namespace jollyrow {

/// `only`: the fields of the columns that are copied; empty for all. At most 100 000 records. O(records).
QString copied(const Selection& selection, const ShownRows& rows, const Snapshot& snapshot, const ViewPlan& plan,
               const std::vector<std::string>& only);

}  // namespace jollyrow
