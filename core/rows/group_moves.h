// SPDX-License-Identifier: MIT
#pragma once
// Records whose keys were edited, moved from one group of a tree to another without building it anew. Inside of the
// rows room.

#include <cstdint>
#include <memory>
#include <span>
#include <vector>

#include "core/rows/group_tree.h"

namespace jollyrow {

struct GroupMove {
    std::uint32_t row = 0;
    std::uint32_t from = 0, to = 0;  ///< innermost groups, as nodes
};

/// Each record's place in the order that groups keep. O(rows).
std::vector<std::uint32_t> placesOf(const RowOrder& given, std::size_t rows);

/// The tree after the keys of `rows` became `keys`, whose values and ranks are those of the tree; `moves` are the
/// records that changed groups. Null when a group would appear or vanish, or when building anew costs less. `places` as
/// placesOf() gives them, null for bound order. O(records + moves * groups), a small part of groupTree().
std::shared_ptr<const GroupTree> movedTree(const GroupTree& tree, const std::vector<GroupKeys>& keys,
                                           std::span<const std::uint32_t> rows,
                                           const std::vector<std::uint32_t>* places, std::vector<GroupMove>& moves);

/// The nodes that a record leaves, or comes to: those of one path that the other does not have.
std::vector<std::uint32_t> ownNodes(const GroupTree& tree, std::uint32_t leaf, std::uint32_t otherLeaf);

}  // namespace jollyrow
