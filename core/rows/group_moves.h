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
    static constexpr std::uint32_t kNone = 0xffff'ffff;
    std::uint32_t row = 0;
    std::uint32_t from = 0, to = 0;  ///< innermost groups, as nodes; kNone: it comes, or goes
};

/// Records that come to those that are grouped, and that go.
struct GroupComings {
    std::span<const std::uint32_t> joined = {}, left = {};
};

/// Each record's place in the order that groups keep, with room before and behind. O(rows).
class GroupPlaces final {
  public:
    bool empty() const { return places_.empty(); }
    void clear() { places_.clear(); }
    void make(const RowOrder& given, std::size_t rows);
    void addFirst(std::uint32_t row) { places_[row] = --first_; }
    void addLast(std::uint32_t row) { places_[row] = end_++; }
    std::uint32_t of(std::uint32_t row) const { return places_[row]; }

  private:
    std::vector<std::uint32_t> places_;
    std::uint32_t first_ = 0, end_ = 0;
};

/// The tree after the keys of `rows` became `keys`, whose values and ranks are those of the tree, and some records have
/// come and gone; `moves` are the records that changed groups. Null when a group would appear or vanish, or when
/// building anew costs less. `places` with those that come; null for bound order. O(records + moves * groups), a small
/// part of groupTree().
std::shared_ptr<const GroupTree> movedTree(const GroupTree& tree, const std::vector<GroupKeys>& keys,
                                           std::span<const std::uint32_t> rows, const GroupPlaces* places,
                                           const GroupComings& comings, std::vector<GroupMove>& moves);

/// The nodes that a record leaves, or comes to: those of one path that the other does not have; with the figures of all
/// records where it comes or goes.
std::vector<std::uint32_t> ownNodes(const GroupTree& tree, std::uint32_t leaf, std::uint32_t otherLeaf);

}  // namespace jollyrow
