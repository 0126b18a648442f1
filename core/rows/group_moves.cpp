// SPDX-License-Identifier: MIT
// Idea: while no group appears or vanishes, the nodes stay what they are. A record that goes from group a to group b
// turns the stretch of the order between both by one place, and shifts the groups in between by one:
//   a: 1 4 7 | 2 5 | b: 3 9   --4 goes to b-->   a: 1 7 | 2 5 | b: 3 4 9
// One that comes or goes shifts all behind it.
// Covered by tests/rows/group_stage_test.cpp, which edits at random and compares with trees made anew.
#include "core/rows/group_moves.h"

#include <algorithm>
#include <optional>

namespace jollyrow {
namespace {

/// More nodes to shift than this, and a new tree costs less.
constexpr std::size_t kMostShifts = std::size_t{1} << 22;
constexpr std::size_t kMostMoves = 64;

std::optional<std::uint32_t> leafFor(const GroupTree& tree, const std::vector<GroupKeys>& keys, std::uint32_t row) {
    std::uint32_t begin = 0, end = tree.levelBegin[1];
    for (std::size_t level = 0;; ++level) {
        const auto& ranks = keys[level].ranks;
        const std::uint32_t rank = ranks[keys[level].codes->byRow()[row]];
        const auto first = tree.nodes.begin() + begin, last = tree.nodes.begin() + end;
        const auto found = std::lower_bound(
            first, last, rank, [&](const GroupNode& node, std::uint32_t wanted) { return ranks[node.code] < wanted; });
        if (found == last || ranks[found->code] != rank) return std::nullopt;
        if (level + 1 == keys.size()) return static_cast<std::uint32_t>(found - tree.nodes.begin());
        begin = found->firstChild;
        end = found->endChild;
    }
}

class Mover {
  public:
    Mover(const GroupTree& tree, const GroupPlaces* places, std::size_t joining)
        : places_(places), order_(std::make_shared<RowOrder>()), out_(std::make_shared<GroupTree>()) {
        order_->reserve(tree.order->size() + joining);
        order_->assign(tree.order->begin(), tree.order->end());
        out_->nodes = tree.nodes;
        out_->levelBegin = tree.levelBegin;
        out_->leafOf = tree.leafOf;
    }

    void move(const GroupMove& m) {
        if (m.from == GroupMove::kNone)
            join(m);
        else if (m.to == GroupMove::kNone)
            leave(m);
        else
            turn(m);
        for (const std::uint32_t node : ownNodes(*out_, m.from, m.to))
            if (node < out_->nodes.size()) --out_->nodes[node].count;
        for (const std::uint32_t node : ownNodes(*out_, m.to, m.from))
            if (node < out_->nodes.size()) ++out_->nodes[node].count;
        const auto begin = static_cast<std::uint32_t>(out_->leafBegin());
        out_->leafOf[m.row] = m.to == GroupMove::kNone ? static_cast<std::uint32_t>(out_->leaves()) : m.to - begin;
    }

    std::shared_ptr<const GroupTree> finish(const std::vector<GroupKeys>& keys) {
        for (const GroupKeys& level : keys) out_->codes.push_back(level.codes);
        for (std::size_t n = out_->leafBegin(); n-- > 0;)
            out_->nodes[n].first = out_->nodes[out_->nodes[n].firstChild].first;
        out_->order = std::move(order_);
        const bool vanishes =
            std::any_of(out_->nodes.begin(), out_->nodes.end(), [](const GroupNode& node) { return node.count == 0; });
        return vanishes ? nullptr : out_;
    }

  private:
    void turn(const GroupMove& m) {
        const auto at = placeIn(m.from, m.row), to = placeIn(m.to, m.row);
        if (m.from < m.to) {
            std::rotate(at, at + 1, to);
            for (std::uint32_t n = m.from + 1; n <= m.to; ++n) --out_->nodes[n].first;
        } else {
            std::rotate(to, at, at + 1);
            for (std::uint32_t n = m.to + 1; n <= m.from; ++n) ++out_->nodes[n].first;
        }
    }
    void join(const GroupMove& m) {
        order_->insert(placeIn(m.to, m.row), m.row);
        for (std::size_t n = m.to + std::size_t{1}; n < out_->nodes.size(); ++n) ++out_->nodes[n].first;
    }
    void leave(const GroupMove& m) {
        order_->erase(placeIn(m.from, m.row));
        for (std::size_t n = m.from + std::size_t{1}; n < out_->nodes.size(); ++n) --out_->nodes[n].first;
    }
    std::uint32_t placeOf(std::uint32_t row) const { return places_ ? places_->of(row) : row; }
    RowOrder::iterator placeIn(std::uint32_t leaf, std::uint32_t row) {
        const auto first = order_->begin() + out_->nodes[leaf].first;
        return std::lower_bound(first, first + out_->nodes[leaf].count, placeOf(row),
                                [this](std::uint32_t other, std::uint32_t place) { return placeOf(other) < place; });
    }

    const GroupPlaces* places_;
    std::shared_ptr<RowOrder> order_;
    std::shared_ptr<GroupTree> out_;
};

}  // namespace

void GroupPlaces::make(const RowOrder& given, std::size_t rows) {
    constexpr std::uint32_t kMiddle = std::uint32_t{1} << 30;
    places_.assign(rows, 0);
    first_ = kMiddle;
    end_ = kMiddle;
    for (const std::uint32_t row : given) places_[row] = end_++;
}

std::vector<std::uint32_t> ownNodes(const GroupTree& tree, std::uint32_t leaf, std::uint32_t otherLeaf) {
    std::vector<std::uint32_t> own;
    if (leaf == GroupMove::kNone) return own;
    if (otherLeaf == GroupMove::kNone) {
        own.push_back(static_cast<std::uint32_t>(tree.nodes.size()));  // all records
        if (tree.nodes.empty()) return own;
        for (own.push_back(leaf); tree.nodes[leaf].level > 0; own.push_back(leaf)) leaf = tree.nodes[leaf].parent;
        return own;
    }
    for (; leaf != otherLeaf; leaf = tree.nodes[leaf].parent, otherLeaf = tree.nodes[otherLeaf].parent) {
        own.push_back(leaf);
        if (tree.nodes[leaf].level == 0) break;
    }
    return own;
}

std::shared_ptr<const GroupTree> movedTree(const GroupTree& tree, const std::vector<GroupKeys>& keys,
                                           std::span<const std::uint32_t> rows, const GroupPlaces* places,
                                           const GroupComings& comings, std::vector<GroupMove>& moves) {
    moves.clear();
    const std::size_t all = rows.size() + comings.joined.size() + comings.left.size();
    if (tree.levels() == 0 || all > kMostMoves || all * tree.leaves() > kMostShifts) return nullptr;
    const auto leafBegin = static_cast<std::uint32_t>(tree.leafBegin());
    for (const std::uint32_t row : comings.left)
        if (tree.leafOf[row] < tree.leaves()) moves.push_back({row, leafBegin + tree.leafOf[row], GroupMove::kNone});
    for (const std::uint32_t row : rows) {
        if (tree.leafOf[row] >= tree.leaves()) continue;  // filtered out: in no group
        if (std::find(comings.left.begin(), comings.left.end(), row) != comings.left.end()) continue;
        const auto to = leafFor(tree, keys, row);
        if (!to) return nullptr;
        const auto from = leafBegin + tree.leafOf[row];
        if (from != *to) moves.push_back({row, from, *to});
    }
    for (const std::uint32_t row : comings.joined) {
        if (tree.leafOf[row] < tree.leaves()) continue;
        const auto to = leafFor(tree, keys, row);
        if (!to) return nullptr;
        moves.push_back({row, GroupMove::kNone, *to});
    }
    Mover mover(tree, places, comings.joined.size());
    for (const GroupMove& move : moves) mover.move(move);
    return mover.finish(keys);
}

}  // namespace jollyrow
