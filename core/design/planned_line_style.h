// SPDX-License-Identifier: MIT
#pragma once
// Styles of group lines, their footers and the totals. Their conditions are rules of aggregates, as SQL's HAVING has
// them (ISO/IEC 9075-2, 7.14 <having clause>): figures of each group, kept and followed as the visible ones are.

#include <map>
#include <memory>
#include <optional>
#include <vector>

#include "core/design/grouping.h"
#include "core/design/planned_style.h"

namespace jollyrow {

/// Those of lines that are no records and are on; what cannot be had becomes a finding. O(styles).
std::vector<PlannedLineStyle> plannedLineStyles(const Design& design, const TableSchema& schema,
                                                const Registered* registered, std::vector<Finding>& findings);

/// Confined to one thread. Holds the snapshot.
class LineStyleReader final {
  public:
    explicit LineStyleReader(std::shared_ptr<const Snapshot> snapshot);
    bool isEmpty() const { return !grouping_ || grouping_->styles.empty(); }
    /// What a group's line or footer gets as a whole (nullopt), or the cell of a figure on it. O(styles); the first one
    /// with a scale of a level O(groups of the level).
    CellStyle ofGroup(std::uint32_t node, std::optional<std::size_t> summary) const;
    /// The same of a line of totals. `figures`: those of its records, conditions after the visible ones; empty: of the
    /// records shown.
    CellStyle ofTotal(const std::vector<EvaluatedCell>& figures, std::optional<std::size_t> summary) const;

  private:
    template <class At>
    CellStyle styleOf(StyledLines lines, std::optional<std::size_t> summary, int level, const At& at) const;
    const Extent& endsOf(std::size_t summary, int level) const;

    std::shared_ptr<const Snapshot> snapshot_;
    const Grouping* grouping_;
    std::vector<std::optional<std::size_t>> conditions_;  ///< by style: the figure that says whether it holds
    mutable std::map<std::pair<std::size_t, int>, Extent> ends_;
};

}  // namespace jollyrow
