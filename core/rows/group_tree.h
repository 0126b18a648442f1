// SPDX-License-Identifier: MIT
#pragma once
// GroupTree: records put into groups by levels of keys: the groups level by level, each level in display order, and the
// records with those of each group together.

#include <cstdint>
#include <memory>
#include <vector>

#include "core/base/cancel.h"
#include "core/base/result.h"
#include "core/rows/group_codes.h"
#include "core/rows/row_order.h"

namespace jollyrow {

struct GroupNode {
    int level = 0;             ///< 0 = the outermost
    std::uint32_t parent = 0;  ///< a node, of level > 0
    std::uint32_t code = 0;    ///< of its key (GroupTree::key())
    std::uint64_t path = 0;    ///< names the group by its keys from the outermost on; the same in every run
    std::int64_t first = 0;    ///< its records in GroupTree::order
    std::int64_t count = 0;
    std::uint32_t firstChild = 0, endChild = 0;  ///< nodes of the next level
};

/// Immutable once made.
struct GroupTree {
    std::vector<GroupNode> nodes;                     ///< level by level, each in display order
    std::vector<std::uint32_t> levelBegin;            ///< by level its first node; one more at the end
    std::shared_ptr<const RowOrder> order;            ///< the records, those of each group together
    std::vector<std::shared_ptr<const Codes>> codes;  ///< by level its keys
    /// By record of the table its innermost group, counted from that level's first; leaves() for those not grouped.
    RowOrder leafOf;

    /// The key of a node: Filled, Empty, or the error that its records' keys have in common. O(1).
    EvaluatedCell key(const GroupNode& node) const {
        return codes[static_cast<std::size_t>(node.level)]->values.at(node.code);
    }
    CellState keyState(const GroupNode& node) const {
        return codes[static_cast<std::size_t>(node.level)]->values.state(node.code);
    }
    int levels() const { return static_cast<int>(levelBegin.size()) - 1; }
    std::size_t leafBegin() const { return levels() == 0 ? 0 : levelBegin[levelBegin.size() - 2]; }
    /// Innermost groups; one without levels.
    std::size_t leaves() const { return levels() == 0 ? 1 : nodes.size() - leafBegin(); }
    /// The node of a level that holds the place `at` of `order`. Requires: 0 <= at < order->size(). O(log groups).
    std::uint32_t nodeAt(int level, std::int64_t at) const;
};

/// One level's keys: what stands in each record, and the place of each value.
struct GroupKeys {
    std::shared_ptr<const Codes> codes;
    std::vector<std::uint32_t> ranks;
    /// Those of the columns alone, without edits: keys of the same ones differ by edits only. Null for rules over all
    /// records.
    std::shared_ptr<const Codes> plain = nullptr;
};

/// `given`: the records to group, in the order they keep within their group; null for all of `rows` in bound order.
/// Fails when cancelled, or with more than kMostGroups groups on a level. O(records * levels + groups log groups).
Result<std::shared_ptr<const GroupTree>> groupTree(const std::vector<GroupKeys>& levels, const RowOrder* given,
                                                   std::size_t rows, const Cancel& cancel);

/// The same tree with the children of each group in another order: `rankOf` has a number for each node by which those
/// of one parent are sorted, stably. `from` tells by new node the old one. O(records + groups log groups).
std::shared_ptr<const GroupTree> reordered(const GroupTree& tree, const std::vector<std::uint32_t>& rankOf,
                                           std::vector<std::uint32_t>& from);

}  // namespace jollyrow
