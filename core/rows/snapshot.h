// SPDX-License-Identifier: MIT
#pragma once
// Snapshot: what the Rowline made, frozen: which record stands on which line, with the values and edits it was made
// from. Handed from the worker to the window and to exports; immutable, so any thread may read it.

#include <cstdint>
#include <memory>
#include <string_view>
#include <vector>

#include "core/columns/edits.h"
#include "core/columns/table.h"
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
    double computing = 0;                   ///< milliseconds that its computed columns took, of the source
};

/// What stands on a line.
enum class LineKind { Record };
struct Line {
    LineKind kind = LineKind::Record;
    SourceRow row{};
};

struct Snapshot {
    std::uint64_t generation = 0;
    std::shared_ptr<const Table> table;
    std::shared_ptr<const Edits> edits;
    std::shared_ptr<const RowOrder> order;  ///< null: the bound order
    StageReport source, filter, sort, group, summaries;

    std::int64_t lineCount() const {
        return order ? static_cast<std::int64_t>(order->size()) : static_cast<std::int64_t>(table->rows);
    }
    /// Requires: 0 <= line < lineCount(). O(1).
    Line line(ViewLine line) const {
        const auto n = static_cast<std::size_t>(raw(line));
        return {LineKind::Record, static_cast<SourceRow>(order ? (*order)[n] : static_cast<std::uint32_t>(n))};
    }
    /// The line a record stands on; nullopt when it is not shown. O(lines).
    std::optional<ViewLine> lineOf(SourceRow row) const;
    /// The value a cell shows: an edit if there is one, else the table's.
    Value value(SourceRow row, FieldIndex field) const;
    const StageReport& report(Stage stage) const;
};

}  // namespace jollyrow
