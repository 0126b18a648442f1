// SPDX-License-Identifier: MIT
#pragma once
// Finding records by what their cells show: one text over all shown columns, or `heading: text, heading: text` for
// chosen ones. Case does not matter. What is searched is the text a person sees, format and look-up labels included.

#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/cancel.h"
#include "core/base/result.h"
#include "core/design/plan.h"
#include "core/rows/record_set.h"
#include "core/rows/snapshot.h"

namespace jollyrow {

/// One text to find, folded; in one column of the plan, or in any.
struct FindPart {
    std::string text;
    std::optional<std::size_t> column;
    bool operator==(const FindPart&) const = default;
};

struct FindQuery {
    std::vector<FindPart> parts;  ///< a record is found when every part is found in it
    bool empty() const { return parts.empty(); }
    bool operator==(const FindQuery&) const = default;
    /// Is this cell one of those that make its record found? `lower` is its text in lower case.
    bool marks(std::size_t column, std::string_view lower) const;
};

/// Names before a colon are headings or fields of the plan, whatever their case; what names no column is searched as it
/// stands ("10:30"). Blanks alone find nothing.
FindQuery findQuery(std::string_view text, const ViewPlan& plan);
/// The records found, of all records of the table. O(records * columns); texts of a dictionary are looked at once.
Result<std::shared_ptr<const RecordSet>> findRecords(const FindQuery& query, const Snapshot& snapshot,
                                                     const ViewPlan& plan, const Cancel& cancel);

}  // namespace jollyrow
