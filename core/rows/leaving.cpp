// SPDX-License-Identifier: MIT
// Covered by tests/rows/comings_test.cpp.
#include "core/rows/leaving.h"

#include <algorithm>

namespace jollyrow {
namespace {

bool isLeaving(const RecordEdit* record) { return record && record->fate() && record->fate()->isLeaving(); }

}  // namespace

std::vector<std::uint32_t> leavingDifference(const Edits* before, const Edits* after) {
    static const Edits kNone;
    std::vector<std::uint32_t> rows;
    if (!(before && before->hasFates()) && !(after && after->hasFates())) return rows;
    Edits::forEachDifference(before ? *before : kNone, after ? *after : kNone,
                             [&](std::uint32_t row, const RecordEdit* was, const RecordEdit* is) {
                                 if (isLeaving(was) != isLeaving(is)) rows.push_back(row);
                             });
    std::sort(rows.begin(), rows.end());
    return rows;
}

std::shared_ptr<const GroupTree> countedTree(std::shared_ptr<const GroupTree> tree, const Edits* edits) {
    std::vector<std::uint32_t> leaving = edits ? edits->leaving() : std::vector<std::uint32_t>();
    std::erase_if(leaving,
                  [&](std::uint32_t row) { return row >= tree->leafOf.size() || tree->leafOf[row] >= tree->leaves(); });
    if (leaving.empty()) return tree;
    auto counted = std::make_shared<GroupTree>(*tree);
    const auto none = static_cast<std::uint32_t>(tree->leaves());
    for (const std::uint32_t row : leaving) counted->leafOf[row] = none;
    auto order = std::make_shared<RowOrder>();
    order->reserve(tree->order->size());
    std::vector<std::int64_t> left;  // places of those that are leaving
    for (std::size_t at = 0; at < tree->order->size(); ++at) {
        const std::uint32_t row = (*tree->order)[at];
        if (counted->leafOf[row] == none)
            left.push_back(static_cast<std::int64_t>(at));
        else
            order->push_back(row);
    }
    const auto before = [&](std::int64_t at) {
        return static_cast<std::int64_t>(std::lower_bound(left.begin(), left.end(), at) - left.begin());
    };
    for (GroupNode& node : counted->nodes) {
        const std::int64_t end = node.first + node.count;
        node.count -= before(end) - before(node.first);
        node.first -= before(node.first);
    }
    counted->order = std::move(order);
    return counted;
}

std::map<std::uint32_t, std::int64_t> leavingByNode(const GroupTree& tree, const Edits* edits) {
    std::map<std::uint32_t, std::int64_t> counts;
    if (!edits) return counts;
    for (const std::uint32_t row : edits->leaving()) {
        if (row >= tree.leafOf.size() || tree.leafOf[row] >= tree.leaves()) continue;
        ++counts[static_cast<std::uint32_t>(tree.nodes.size())];
        if (tree.levels() == 0) continue;
        auto node = static_cast<std::uint32_t>(tree.leafBegin()) + tree.leafOf[row];
        for (++counts[node]; tree.nodes[node].level > 0; ++counts[node]) node = tree.nodes[node].parent;
    }
    return counts;
}

}  // namespace jollyrow
