// SPDX-License-Identifier: MIT
#pragma once
// GroupText: what stands on the lines that are no records: group lines, their footers, the totals. Pure: a snapshot and
// a plan in, texts out; no widget.

#include <memory>
#include <string>
#include <vector>

#include "core/design/plan.h"
#include "core/design/planned_line_style.h"
#include "core/rows/snapshot.h"

namespace jollyrow {

/// One figure as it is shown under a column.
struct FigureText {
    std::string label;  ///< "mean", where several stand on one column; else ""
    std::string text;
    std::size_t summary = 0;  ///< index into Grouping::summaries
    bool isError = false;
};

/// The rows of the totals, from above.
enum class TotalScope { Selected, Filtered, All };

class GroupText final {
  public:
    GroupText(std::shared_ptr<const Snapshot> snapshot, std::shared_ptr<const ViewPlan> plan);

    /// Lines of text that figures need on each kind of line; at least 1.
    int groupLines() const { return groups_.lines; }
    int footerLines() const { return footers_.lines; }
    int totalLines() const { return totals_.lines; }
    /// True when some figure is shown in the totals.
    bool hasTotals() const { return totals_.any; }
    bool hasGroupFigures() const { return groups_.any; }
    /// Does a group's line say how many records it has, by a summary or in its caption? Requires: a line of a group.
    bool tellsCount(const Line& line) const;
    /// The records of a group that count; those to be deleted do not. Requires: a line of a group.
    std::int64_t records(const Line& line) const { return snapshot_->groups->records(line.group); }
    /// Is a summary the number of records?
    bool countsRecords(std::size_t summary) const;

    /// What styles give the lines.
    const LineStyleReader& styles() const { return styles_; }
    /// What they give the totals of all records.
    CellStyle styleOfAll(std::optional<std::size_t> summary) const {
        return snapshot_->figuresOfAll.empty() ? CellStyle{} : styles_.ofTotal(snapshot_->figuresOfAll, summary);
    }

    /// Does some style put icons before the figures of a column?
    bool hasIcons(int column) const;

    const PlannedGroup* groupOf(const Line& line) const;
    /// "North pontoon"; of a footer its own caption.
    void caption(const Line& line, std::string& out) const;
    /// In the order in which they stand beneath each other.
    void figures(const Line& line, int column, std::vector<FigureText>& out) const;
    /// `selected`: the figures of the selected records, by summary; only used for that scope.
    void totals(TotalScope scope, int column, const std::vector<EvaluatedCell>& selected,
                std::vector<FigureText>& out) const;
    /// The node a figure is of; tree().nodes.size() for the totals.
    std::uint32_t nodeOf(const Line& line) const { return line.group; }

  private:
    struct Places {
        std::vector<std::vector<std::size_t>> ofColumn;  ///< by plan column the summaries on it
        int lines = 1;
        bool any = false;
    };
    Places placesFor(bool SummaryDesign::*where) const;
    void add(const EvaluatedCell& cell, std::size_t summary, bool several, std::vector<FigureText>& out) const;
    bool known(std::size_t summary) const;

    std::shared_ptr<const Snapshot> snapshot_;
    std::shared_ptr<const ViewPlan> plan_;
    const Grouping* grouping_;
    LineStyleReader styles_;
    Places groups_, footers_, totals_;
    bool showsCount_ = false;
};

}  // namespace jollyrow
