// SPDX-License-Identifier: MIT
#pragma once
// Snapshot: what the Rowline made, frozen: which record stands on which line, with the values and edits it was made
// from. Handed from the worker to the window and to exports; immutable, so any thread may read it.

#include <cstdint>
#include <map>
#include <memory>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "core/columns/edits.h"
#include "core/columns/table.h"
#include "core/rows/extents.h"
#include "core/rows/group_stage.h"
#include "core/rows/grouped_lines.h"
#include "core/rows/record_set.h"
#include "core/rows/recorded_values.h"
#include "core/rows/row_order.h"
#include "core/rules/rule_type.h"

namespace jollyrow {

enum class Stage { Source, Filter, Sort, Group, Summaries };
std::string_view name(Stage stage);

/// What one stage did, for the Rowline and --timings.
struct StageReport {
    std::int64_t rowsIn = 0;
    std::int64_t rowsOut = 0;
    double milliseconds = 0;  ///< 0 when the stage passed its rows on untouched
    std::int64_t failed = 0;  ///< records for which a rule of the stage gave an error
    std::optional<SourceRow> firstFailed = std::nullopt;
    CellState failure = CellState::Filled;  ///< what went wrong with the first of them
    std::int64_t groups = 0;                ///< made by the stage, on all levels
    double computing = 0;                   ///< milliseconds that its computed columns took, of the source
};

/// What rules over the records of a snapshot are evaluated with.
struct Situation {
    std::map<std::string, RuleValue> parameters;
    std::int32_t today = 0;
    std::int64_t now = 0;
};

struct Snapshot {
    std::uint64_t generation = 0;
    std::uint32_t epoch = 0;  ///< row numbers of snapshots of one epoch mean the same records
    std::shared_ptr<const Table> table;
    std::shared_ptr<const Edits> edits;
    std::shared_ptr<const RowOrder> order;        ///< null: the bound order
    std::shared_ptr<const GroupedRows> groups;    ///< with levels, figures or both; null for neither
    std::shared_ptr<const GroupedLines> grouped;  ///< null without levels
    std::vector<EvaluatedCell> figuresOfAll;      ///< by summary, of filtered and left out alike, when asked for
    std::shared_ptr<const void> grouping;         ///< what `groups` was planned as (groupingOf() in design/grouping.h)
    std::string groupProblem;                     ///< why there are no groups although some are asked for; else ""
    Situation situation;
    std::vector<std::pair<ExtentTerm, Extent>> extents;  ///< that were asked for
    /// Records that are drawn as headings, by condition, in the order in which they apply.
    struct Banners {
        std::string rule;
        std::shared_ptr<const RecordSet> set;
    };
    std::vector<Banners> banners;
    std::shared_ptr<const RecordedValues> recorded;  ///< what cells held before; null where nobody shows it
    StageReport source, filter, sort, group, summaries;

    /// 0 to 0 when it was not asked for.
    Extent extentOf(const ExtentTerm& term) const {
        for (const auto& [known, extent] : extents)
            if (known == term) return extent;
        return {};
    }
    /// Records shown, whether the groups around them are open or not.
    std::int64_t recordCount() const {
        return order ? static_cast<std::int64_t>(order->size()) : static_cast<std::int64_t>(table->rows);
    }
    /// Requires: 0 <= place < recordCount(). O(1).
    SourceRow record(std::int64_t place) const {
        const auto n = static_cast<std::size_t>(place);
        return static_cast<SourceRow>(order ? (*order)[n] : static_cast<std::uint32_t>(n));
    }
    std::int64_t lineCount() const { return grouped ? grouped->count() : recordCount(); }
    /// Requires: 0 <= line < lineCount(). O(1), with groups O(log open groups).
    Line line(ViewLine line) const {
        return grouped ? grouped->at(raw(line)) : Line{LineKind::Record, record(raw(line))};
    }
    /// The place a record has among those shown; nullopt when it is not shown. O(records).
    std::optional<std::int64_t> placeOf(SourceRow row) const;
    /// The line a record stands on; nullopt when it is not shown or in a closed group. O(records).
    std::optional<ViewLine> lineOf(SourceRow row) const;
    /// The value a cell shows: an edit if there is one, else the table's.
    Value value(SourceRow row, FieldIndex field) const;
    const StageReport& report(Stage stage) const;
};

}  // namespace jollyrow
