// SPDX-License-Identifier: MIT
#pragma once
// GridGroups: groups, their lines and figures: `grid.groups().add("due_on", GroupBy::Month)`. Nothing here emits
// designEdited(). A handle: a value, without a state of its own. Requires: the grid outlives it. Window's thread.

#include <QString>

#include <cstdint>
#include <functional>
#include <map>
#include <optional>
#include <vector>

#include "core/base/result.h"
#include "core/columns/value.h"
#include "core/design/design.h"
#include "core/design/summary_table.h"

namespace jollyrow {

class GridPrivate;

/// A group as its line shows it.
struct GroupLine {
    int level = 0;  ///< 0 = the outermost
    QString caption;
    Value key;  ///< Empty for records without a value, and for those on which the grouping fails
    std::int64_t records = 0;
    bool isOpen = true;
};

class GridGroups final {
  public:
    explicit GridGroups(GridPrivate& grid) : d_(&grid) {}

    /// Groups by these levels, outermost first; empty for none.
    void set(const std::vector<GroupDesign>& groups);
    /// One more level.
    void add(const QString& field, GroupBy by = GroupBy::EachValue);
    void setSummaries(const std::vector<SummaryDesign>& summaries);
    void openAll();
    void closeAll();
    void setOpen(std::int64_t line, bool open);
    /// All groups of a level; 0 = the outermost.
    void setLevelOpen(int level, bool open);
    /// What stands on a group's line; nullopt for other lines.
    std::optional<GroupLine> at(std::int64_t line) const;
    /// A summary's figure of the group on a line, or of all records shown; Empty when there is none or it failed. Sums
    /// past 64 bits are WideDecimal.
    Value figure(const QString& summary, std::optional<std::int64_t> line = std::nullopt) const;
    /// All summaries over these records, by name, as figure() has them: computed behind, and handed over on the
    /// window's thread. Failed ones are Empty. O(records).
    enum class Over {
        All,  ///< filtered or not
        Shown,
        Selected,
    };
    void figures(Over over, std::function<void(const std::map<QString, Value>&)> done) const;
    /// The groups and figures shown as a table of their own, with a design to open it with:
    /// `other.open(made->design, made->table)`. As the design asks for (GroupDesign::across,
    /// GridDesign::turnedSummary), or otherwise; handed over as figures() is.
    void summaryTable(std::function<void(const Result<SummaryTable>&)> done) const;
    void summaryTable(const SummaryTableWanted& wanted, std::function<void(const Result<SummaryTable>&)> done) const;

  private:
    GridPrivate* d_;
};

}  // namespace jollyrow
