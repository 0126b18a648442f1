// SPDX-License-Identifier: MIT
#pragma once
// ViewPlan: a design met with a schema: names resolved, formats settled, what cannot be had reported. Immutable.

#include <vector>

#include "core/columns/schema.h"
#include "core/columns/sort_key.h"
#include "core/design/design.h"
#include "core/design/finding.h"
#include "core/formats/text_format.h"

namespace jollyrow {

struct PlannedColumn {
    FieldIndex field{};
    ColumnDesign design;
    TextFormat format;
    Alignment alignment = Alignment::Left;  ///< never Automatic
    bool editable = false;
    bool operator==(const PlannedColumn&) const = default;
};

struct ViewPlan {
    std::vector<PlannedColumn> columns;  ///< the shown ones, in order
    std::vector<SortKey> sort;
    std::vector<bool> wanted;  ///< by field: must be loaded
    std::vector<Finding> findings;
};

/// Never fails: a column or key whose field is missing is left out and becomes a finding with the likely new name.
ViewPlan planOf(const Design& design, const TableSchema& schema);

}  // namespace jollyrow
