// SPDX-License-Identifier: MIT
// Idea: only the lines that are no records are kept, in order; records fill the gaps behind the line of their group.
// Covered by tests/rows/group_stage_test.cpp.
#include "core/rows/grouped_lines.h"
#include "core/base/require.h"

#include <algorithm>

namespace jollyrow {

GroupedLines::GroupedLines(std::shared_ptr<const GroupTree> tree, OpenGroups open, std::vector<bool> footers)
    : tree_(std::move(tree)), open_(std::move(open)), footers_(std::move(footers)) {
    footers_.resize(static_cast<std::size_t>(tree_->levels()));
    if (tree_->levels() == 0) return;
    const int innermost = tree_->levels() - 1;
    // Depth first without recursion: the stack holds the groups whose children are being laid out.
    struct Open {
        std::uint32_t node, next, end;
    };
    std::vector<Open> stack{{0, 0, tree_->levelBegin[1]}};
    while (!stack.empty()) {
        Open& top = stack.back();
        if (top.next == top.end) {
            const std::uint32_t node = top.node;
            stack.pop_back();
            if (!stack.empty() && footers_[static_cast<std::size_t>(tree_->nodes[node].level)])
                entries_.push_back({count_++, node, true});
            continue;
        }
        const std::uint32_t n = top.next++;
        const GroupNode& node = tree_->nodes[n];
        entries_.push_back({count_++, n, false});
        if (!open_.isOpen(node)) continue;
        if (node.level < innermost) {
            stack.push_back({n, node.firstChild, node.endChild});
            continue;
        }
        count_ += node.count;
        if (footers_[static_cast<std::size_t>(innermost)]) entries_.push_back({count_++, n, true});
    }
}

const GroupedLines::Entry& GroupedLines::entryAt(std::int64_t line) const {
    const auto behind = std::upper_bound(entries_.begin(), entries_.end(), line,
                                         [](std::int64_t wanted, const Entry& entry) { return wanted < entry.line; });
    return *std::prev(behind);
}

Line GroupedLines::at(std::int64_t line) const {
    JOLLYROW_REQUIRE(line >= 0 && line < count());
    const Entry& entry = entryAt(line);
    if (entry.line == line) return {entry.footer ? LineKind::GroupFooter : LineKind::Group, kNoRow, entry.node};
    const std::int64_t place = tree_->nodes[entry.node].first + (line - entry.line - 1);
    return {LineKind::Record, static_cast<SourceRow>((*tree_->order)[static_cast<std::size_t>(place)]), entry.node};
}

std::optional<std::int64_t> GroupedLines::lineOf(std::uint32_t node) const {
    if (node >= tree_->nodes.size()) return std::nullopt;
    // Entries stand in the order of their first record; a group stands before the groups in it.
    const GroupNode& wanted = tree_->nodes[node];
    const auto at =
        std::lower_bound(entries_.begin(), entries_.end(), wanted, [&](const Entry& entry, const GroupNode& w) {
            const GroupNode& there = tree_->nodes[entry.node];
            // A footer stands behind all records of its group.
            const std::int64_t first = entry.footer ? there.first + there.count : there.first;
            if (first != w.first) return first < w.first;
            return entry.footer || there.level < w.level;
        });
    if (at == entries_.end() || at->node != node || at->footer) return std::nullopt;
    return at->line;
}

std::int64_t GroupedLines::endOf(std::uint32_t node) const {
    // The next group on this or an outer level, as far as it is in sight.
    for (std::uint32_t n = node;; n = tree_->nodes[n].parent) {
        const GroupNode& here = tree_->nodes[n];
        const std::uint32_t end = here.level == 0 ? tree_->levelBegin[1] : tree_->nodes[here.parent].endChild;
        if (n + 1 < end) {
            const auto next = lineOf(n + 1);
            return next ? *next : count_;
        }
        if (here.level == 0) return count_;
        // Its parent's footer stands before what follows the parent.
        if (footers_[static_cast<std::size_t>(here.level) - 1] && isOpen(here.parent)) {
            std::int64_t end_ = endOf(here.parent);
            return end_ - 1;
        }
    }
}

std::optional<std::int64_t> GroupedLines::lineOfPlace(std::int64_t place) const {
    if (tree_->levels() == 0 || place < 0 || place >= static_cast<std::int64_t>(tree_->order->size()))
        return std::nullopt;
    const std::uint32_t leaf = tree_->nodeAt(tree_->levels() - 1, place);
    const auto line = lineOf(leaf);
    if (!line || !isOpen(leaf)) return std::nullopt;
    return *line + 1 + (place - tree_->nodes[leaf].first);
}

std::optional<std::uint32_t> GroupedLines::groupAround(std::int64_t line, int level) const {
    if (line < 0 || line >= count_) return std::nullopt;
    std::uint32_t node = at(line).group;
    if (tree_->nodes[node].level < level) return std::nullopt;
    while (tree_->nodes[node].level > level) node = tree_->nodes[node].parent;
    return node;
}

}  // namespace jollyrow
