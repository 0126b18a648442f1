// SPDX-License-Identifier: MIT
#pragma once
// Records whose deletion is not saved: they stand on their lines, struck through, until the store has let them go, and
// count in no figure, as edited values count that are not saved either. Inside of the rows room.

#include <cstdint>
#include <map>
#include <memory>
#include <vector>

#include "core/columns/edits.h"
#include "core/rows/group_tree.h"

namespace jollyrow {

/// Records that are leaving in one and not in the other, in rising order. Either may be null. O(what differs), and
/// nothing but a look where no record is inserted or deleted.
std::vector<std::uint32_t> leavingDifference(const Edits* before, const Edits* after);

/// The tree without records that are leaving: the same nodes, each with those that count. The tree itself when there
/// are none among its records; else O(records).
std::shared_ptr<const GroupTree> countedTree(std::shared_ptr<const GroupTree> tree, const Edits* edits);

/// How many are leaving, by node; those of all records stand for nodes.size(). Those without any are left out.
std::map<std::uint32_t, std::int64_t> leavingByNode(const GroupTree& tree, const Edits* edits);

}  // namespace jollyrow
