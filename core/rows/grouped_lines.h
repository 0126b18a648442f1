// SPDX-License-Identifier: MIT
#pragma once
// GroupedLines: what stands on each line of a grouped grid, given which groups are open: a group's own line, its
// records or the groups in it, and its footer. Only open groups take room, so that ten million records in closed ones
// cost nothing. Immutable; any thread may read it.

#include <cstdint>
#include <memory>
#include <optional>
#include <unordered_set>
#include <vector>

#include "core/base/indexes.h"
#include "core/rows/group_tree.h"

namespace jollyrow {

/// What stands on a line.
enum class LineKind : std::uint8_t { Record, Group, GroupFooter };
struct Line {
    LineKind kind = LineKind::Record;
    SourceRow row = kNoRow;   ///< of a Record
    std::uint32_t group = 0;  ///< the group it is of, or stands in when there are groups
};

/// Which groups are open: those on the first levels, but for some that are the other way round. Survives whatever
/// keeps the keys of groups (an edit, sort, filter, reload), for groups are named by them.
struct OpenGroups {
    std::vector<bool> levels;                  ///< whether a level's groups are open; those past the end are
    std::unordered_set<std::uint64_t> others;  ///< GroupNode::path of those that are not as their level says
    bool isLevelOpen(int level) const {
        const auto at = static_cast<std::size_t>(level);
        return at >= levels.size() || levels[at];
    }
    bool isOpen(const GroupNode& node) const { return isLevelOpen(node.level) != others.contains(node.path); }
    void setOpen(const GroupNode& node, bool open) {
        isLevelOpen(node.level) == open ? void(others.erase(node.path)) : void(others.insert(node.path));
    }
    bool operator==(const OpenGroups&) const = default;
};

class GroupedLines final {
  public:
    /// `footers`: by level, whether an open group ends with a line of its own. O(groups in sight of open ones).
    GroupedLines(std::shared_ptr<const GroupTree> tree, OpenGroups open, std::vector<bool> footers);

    /// The same groups, others open.
    GroupedLines(const GroupedLines& lines, OpenGroups open)
        : GroupedLines(lines.tree_, std::move(open), lines.footers_) {}

    std::int64_t count() const { return count_; }
    /// Requires: 0 <= line < count(). O(log open groups).
    Line at(std::int64_t line) const;
    /// The line of a group; nullopt when a group above is closed. O(log open groups).
    std::optional<std::int64_t> lineOf(std::uint32_t node) const;
    /// Of the record at a place of the tree's order; nullopt when a group around it is closed.
    std::optional<std::int64_t> lineOfPlace(std::int64_t place) const;
    /// The line behind the last one that belongs to an open or closed group. O(log open groups).
    std::int64_t endOf(std::uint32_t node) const;
    bool isOpen(std::uint32_t node) const { return open_.isOpen(tree_->nodes[node]); }
    const OpenGroups& open() const { return open_; }
    const GroupTree& tree() const { return *tree_; }
    /// The group of a level around a line; nullopt for a line that is not inside one of that level.
    std::optional<std::uint32_t> groupAround(std::int64_t line, int level) const;

  private:
    struct Entry {
        std::int64_t line = 0;
        std::uint32_t node = 0;
        bool footer = false;
    };
    const Entry& entryAt(std::int64_t line) const;

    std::shared_ptr<const GroupTree> tree_;
    OpenGroups open_;
    std::vector<bool> footers_;
    std::vector<Entry> entries_;  ///< lines that are no records, in order
    std::int64_t count_ = 0;
};

}  // namespace jollyrow
