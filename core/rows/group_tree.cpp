// SPDX-License-Identifier: MIT
// Idea: the groups of a level are the distinct pairs of the group above and the rank of the key. A pair is one number,
// group * ranks + rank, so that pairs in rising order are groups in display order: while there are few of them,
// counting them in a plain array also sorts them. Example: status, year -> (Done, 2024) is pair (0, 3).
#include "core/rows/group_tree.h"
#include "core/base/require.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <bit>
#include <numeric>

#include "core/rows/number_map.h"
#include "core/rows/parallel.h"

namespace jollyrow {
namespace {

constexpr std::uint32_t kNoGroup = ~std::uint32_t{0};
/// Pairs of group and rank are counted in a plain array up to this many.
constexpr std::uint64_t kMostPairs = std::uint64_t{1} << 22;
constexpr std::uint64_t kMostLanes = 4096;
/// Records taken at a time, so that what is made of them stays in the first-level cache.
constexpr std::size_t kStretch = 1024;

std::uint64_t mixed(std::uint64_t x) {  // the finaliser of MurmurHash3
    x ^= x >> 33;
    x *= 0xFF51AFD7ED558CCDULL;
    x ^= x >> 33;
    x *= 0xC4CEB9FE1A85EC53ULL;
    return x ^ (x >> 33);
}

struct KeyBits {
    std::uint64_t operator()(Empty) const { return 0; }
    std::uint64_t operator()(bool v) const { return v ? 1 : 2; }
    std::uint64_t operator()(std::int64_t v) const { return static_cast<std::uint64_t>(v); }
    std::uint64_t operator()(double v) const { return std::bit_cast<std::uint64_t>(v == 0 ? 0.0 : v); }
    std::uint64_t operator()(const std::string& v) const { return std::hash<std::string>{}(v); }
    std::uint64_t operator()(Date v) const { return static_cast<std::uint64_t>(v.days); }
    std::uint64_t operator()(Time v) const { return static_cast<std::uint64_t>(v.micros); }
    std::uint64_t operator()(Timestamp v) const { return static_cast<std::uint64_t>(v.micros); }
    std::uint64_t operator()(Instant v) const { return static_cast<std::uint64_t>(v.micros); }
    std::uint64_t operator()(const Interval& v) const {
        return mixed(static_cast<std::uint64_t>(v.months)) + static_cast<std::uint64_t>(v.micros);
    }
    std::uint64_t operator()(WideDecimal v) const {
        while (v.scale > 0 && v.mantissa % 10 == 0) {
            v.mantissa /= 10;
            --v.scale;
        }
        return mixed(static_cast<std::uint64_t>(v.mantissa)) + static_cast<std::uint64_t>(v.mantissa >> 64) +
               static_cast<std::uint64_t>(v.scale);
    }
};

std::uint64_t pathOf(std::uint64_t above, const EvaluatedCell& key) {
    return mixed(above * 31 + static_cast<std::uint64_t>(key.state) * 7 + mixed(std::visit(KeyBits{}, key.value) + 1));
}

class TreeMaker {
  public:
    TreeMaker(const RowOrder* given, std::size_t rows, const Cancel& cancel)
        : given_(given),
          rows_(rows),
          threads_(threadsFor(rows, kParallelFrom)),
          cancel_(cancel),
          out_(std::make_shared<GroupTree>()) {}

    Result<std::shared_ptr<const GroupTree>> run(const std::vector<GroupKeys>& levels) {
        of_.resize(rows_);
        if (given_) {
            std::fill(of_.begin(), of_.end(), kNoGroup);
            for (const std::uint32_t row : *given_) of_[row] = 0;
        } else if (levels.empty()) {
            std::fill(of_.begin(), of_.end(), 0);
        }
        out_->levelBegin.push_back(0);
        counts_.assign(1, static_cast<std::int64_t>(given_ ? given_->size() : rows_));
        if (const std::uint64_t all = placesOf(levels); all != 0) {
            if (!addAll(levels, all)) return groupingStopped();
            placeRecords();
            return std::shared_ptr<const GroupTree>(std::move(out_));
        }
        for (std::size_t k = 0; k < levels.size(); ++k) {
            if (cancel_.requested()) return groupingStopped();
            if (!addLevel(k, levels[k]))
                return Error{ErrorCode::Unsupported,
                             fmt::format("This makes more than {} groups on level {}, which nobody could look at; use "
                                         "ranges, parts of dates or first letters.",
                                         kMostGroups, k + 1)};
        }
        placeRecords();
        return std::shared_ptr<const GroupTree>(std::move(out_));
    }

  private:
    template <class Work>
    void inRanges(const Work& work) const {
        inParallel(threads_, [&](std::size_t t) { work(t, rows_ * t / threads_, rows_ * (t + 1) / threads_); });
    }

    /// How many groups the keys of all levels could make; 0 for too many to have a place for each.
    static std::uint64_t placesOf(const std::vector<GroupKeys>& levels) {
        if (levels.empty()) return 0;
        std::uint64_t all = 1;
        for (const GroupKeys& keys : levels) {
            all *= std::max<std::uint64_t>(1, keys.ranks.size());
            if (all > kMostPairs) return 0;
        }
        // More than there may be groups on a level are refused level by level.
        return all <= kMostGroups || levels.size() > 1 ? all : 0;
    }

    static Error groupingStopped() { return {ErrorCode::Cancelled, "Grouping was cancelled."}; }

    /// All levels in one pass over the records: each counts at the place that its keys have among all there could be.
    /// False when cancelled; some records have no place then.
    bool addAll(const std::vector<GroupKeys>& levels, std::uint64_t places) {
        const std::size_t lanes = places <= kMostLanes ? 4 : 1;
        threadCounts_.assign(threads_, {});
        inRanges([&](std::size_t t, std::size_t begin, std::size_t end) {
            threadCounts_[t].assign(places * lanes, 0);
            std::uint32_t* __restrict count = threadCounts_[t].data();
            std::uint32_t* __restrict of = of_.data();
            std::array<std::uint32_t, kStretch> at;
            for (std::size_t first = begin; first < end && !cancel_.requested(); first += kStretch) {
                const std::size_t rows = std::min(kStretch, end - first);
                placesIn(levels, first, rows, at.data());
                if (given_) {
                    for (std::size_t i = 0; i < rows; ++i) {
                        if (of[first + i] == kNoGroup) continue;
                        of[first + i] = at[i];
                        ++count[at[i] + (i & (lanes - 1)) * places];
                    }
                } else {
                    std::copy_n(at.data(), rows, of + first);
                    for (std::size_t i = 0; i < rows; ++i) ++count[at[i] + (i & (lanes - 1)) * places];
                }
            }
            for (std::size_t lane = 1; lane < lanes; ++lane)
                for (std::size_t place = 0; place < places; ++place) count[place] += count[lane * places + place];
        });
        if (cancel_.requested()) return false;
        std::vector<std::uint32_t> leaves;  // the places that have records, in display order
        counts_.clear();
        for (std::uint64_t place = 0; place < places; ++place) {
            std::int64_t all = 0;
            for (const auto& part : threadCounts_) all += part[place];
            if (all == 0) continue;
            for (auto& part : threadCounts_) part[leaves.size()] = part[place];
            leaves.push_back(static_cast<std::uint32_t>(place));
            counts_.push_back(all);
        }
        if (leaves.size() != places) {
            leafAt_.resize(places);
            for (std::size_t leaf = 0; leaf < leaves.size(); ++leaf)
                leafAt_[leaves[leaf]] = static_cast<std::uint32_t>(leaf);
        }
        addNodes(levels, leaves);
        return true;
    }

    static void placesIn(const std::vector<GroupKeys>& levels, std::size_t first, std::size_t rows,
                         std::uint32_t* __restrict at) {
        for (std::size_t k = 0; k < levels.size(); ++k) {
            const std::uint32_t* __restrict codes = levels[k].codes->byRow() + first;
            const std::uint32_t* __restrict ranks = levels[k].ranks.data();
            const auto width = static_cast<std::uint32_t>(levels[k].ranks.size());
            if (k == 0)
                for (std::size_t i = 0; i < rows; ++i) at[i] = ranks[codes[i]];
            else
                for (std::size_t i = 0; i < rows; ++i) at[i] = at[i] * width + ranks[codes[i]];
        }
    }

    void addNodes(const std::vector<GroupKeys>& levels, const std::vector<std::uint32_t>& leaves) {
        const std::size_t depth = levels.size();
        std::vector<std::uint64_t> below(depth, 1);  // places in one group of the level
        for (std::size_t k = depth - 1; k-- > 0;) below[k] = below[k + 1] * levels[k + 1].ranks.size();
        // How many groups each level has: where a leaf has another number there than the one before it.
        std::vector<std::uint32_t> many(depth, 0);
        for (std::size_t k = 0; k < depth; ++k) {
            std::uint64_t before = ~std::uint64_t{0};
            for (const std::uint32_t place : leaves)
                if (const std::uint64_t group = place / below[k]; std::exchange(before, group) != group) ++many[k];
        }
        out_->levelBegin.assign(1, 0);
        for (const std::uint32_t groups : many) out_->levelBegin.push_back(out_->levelBegin.back() + groups);
        out_->nodes.resize(out_->levelBegin.back());
        for (std::size_t k = 0; k < depth; ++k) {
            out_->codes.push_back(levels[k].codes);
            std::vector<std::uint32_t> codeOf(levels[k].ranks.size());
            for (std::size_t code = 0; code < codeOf.size(); ++code)
                codeOf[levels[k].ranks[code]] = static_cast<std::uint32_t>(code);
            std::uint64_t before = ~std::uint64_t{0}, above = ~std::uint64_t{0};
            std::uint32_t at = out_->levelBegin[k], parent = k == 0 ? 0 : out_->levelBegin[k - 1];
            GroupNode* node = nullptr;
            for (std::size_t leaf = 0; leaf < leaves.size(); ++leaf) {
                const std::uint64_t group = leaves[leaf] / below[k];
                if (std::exchange(before, group) != group) {
                    node = &out_->nodes[at];
                    node->level = static_cast<int>(k);
                    node->code = codeOf[group % codeOf.size()];
                    if (k > 0) {
                        const std::uint64_t outer = leaves[leaf] / below[k - 1];
                        if (above != ~std::uint64_t{0} && outer != above) ++parent;
                        GroupNode& holder = out_->nodes[parent];
                        if (outer != above) holder.firstChild = at;
                        holder.endChild = at + 1;
                        above = outer;
                        node->parent = parent;
                    }
                    node->path = pathOf(k == 0 ? 0 : out_->nodes[parent].path, levels[k].codes->values.at(node->code));
                    ++at;
                }
                node->count += counts_[leaf];
            }
        }
    }

    bool addLevel(std::size_t k, const GroupKeys& keys) {
        const std::uint64_t parents = counts_.size();
        const std::uint64_t width = std::max<std::uint64_t>(1, keys.ranks.size());
        std::vector<std::uint64_t> pairs;  // in display order
        const bool direct = parents * width <= kMostPairs;
        fresh_ = k == 0 && !given_;
        if (fresh_ && !direct) std::fill(of_.begin(), of_.end(), 0);
        if (!(direct ? countDirect(keys, parents * width, width, pairs) : countHashed(keys, width, pairs)))
            return false;
        std::vector<std::uint32_t> codeOf(width);
        for (std::size_t code = 0; code < keys.ranks.size(); ++code)
            codeOf[keys.ranks[code]] = static_cast<std::uint32_t>(code);
        const std::uint32_t above = k == 0 ? 0 : out_->levelBegin[k - 1];
        const auto begin = static_cast<std::uint32_t>(out_->nodes.size());
        out_->nodes.reserve(begin + pairs.size());
        for (std::size_t i = 0; i < pairs.size(); ++i) {
            GroupNode node;
            node.level = static_cast<int>(k);
            node.parent = above + static_cast<std::uint32_t>(pairs[i] / width);
            node.code = codeOf[pairs[i] % width];
            node.count = counts_[i];
            node.path = pathOf(k == 0 ? 0 : out_->nodes[node.parent].path, keys.codes->values.at(node.code));
            if (k > 0) {
                GroupNode& parent = out_->nodes[node.parent];
                if (parent.endChild == 0) parent.firstChild = begin + static_cast<std::uint32_t>(i);
                parent.endChild = begin + static_cast<std::uint32_t>(i) + 1;
            }
            out_->nodes.push_back(std::move(node));
        }
        out_->codes.push_back(keys.codes);
        out_->levelBegin.back() = begin;
        out_->levelBegin.push_back(static_cast<std::uint32_t>(out_->nodes.size()));
        return true;
    }

    bool countDirect(const GroupKeys& keys, std::uint64_t size, std::uint64_t width,
                     std::vector<std::uint64_t>& pairs) {
        threadCounts_.assign(threads_, {});
        const std::uint32_t* codes = keys.codes->byRow();
        const std::uint32_t* ranks = keys.ranks.data();
        // Neighbours often are in one group: counting them in turn into several arrays keeps the processor from
        // waiting for the last addition.
        const std::size_t lanes = size <= kMostLanes ? 4 : 1;
        inRanges([&](std::size_t t, std::size_t begin, std::size_t end) {
            threadCounts_[t].assign(size * lanes, 0);
            std::uint32_t* __restrict count = threadCounts_[t].data();
            std::uint32_t* __restrict of = of_.data();
            if (fresh_) {
                for (std::size_t row = begin; row < end; ++row) {
                    const std::uint32_t pair = ranks[codes[row]];
                    of[row] = pair;
                    ++count[pair + (row & (lanes - 1)) * size];
                }
            } else {
                for (std::size_t row = begin; row < end; ++row) {
                    if (of[row] == kNoGroup) continue;
                    const auto pair = static_cast<std::uint32_t>(of[row] * width + ranks[codes[row]]);
                    of[row] = pair;
                    ++count[pair + (row & (lanes - 1)) * size];
                }
            }
            for (std::size_t lane = 1; lane < lanes; ++lane)
                for (std::size_t pair = 0; pair < size; ++pair) count[pair] += count[lane * size + pair];
        });
        counts_.clear();
        std::vector<std::uint32_t> placeOf(size);
        for (std::uint64_t pair = 0; pair < size; ++pair) {
            std::int64_t all = 0;
            for (const auto& part : threadCounts_) all += part[pair];
            if (all == 0) continue;
            placeOf[pair] = static_cast<std::uint32_t>(pairs.size());
            for (auto& part : threadCounts_) part[pairs.size()] = part[pair];
            pairs.push_back(pair);
            counts_.push_back(all);
        }
        if (pairs.size() != size)
            inRanges([&](std::size_t, std::size_t begin, std::size_t end) {
                for (std::size_t row = begin; row < end; ++row)
                    if (of_[row] != kNoGroup) of_[row] = placeOf[of_[row]];
            });
        return pairs.size() <= kMostGroups;
    }

    bool countHashed(const GroupKeys& keys, std::uint64_t width, std::vector<std::uint64_t>& pairs) {
        threadCounts_.clear();
        NumberMap known;
        std::vector<std::uint64_t> met;
        std::vector<std::int64_t> counts;
        for (std::size_t row = 0; row < rows_; ++row) {
            if (of_[row] == kNoGroup) continue;
            const std::uint64_t pair = of_[row] * width + keys.ranks[keys.codes->byRow()[row]];
            const std::uint32_t number = known.of(pair);
            if (number == met.size()) {
                if (met.size() == kMostGroups) return false;
                met.push_back(pair);
                counts.push_back(0);
            }
            ++counts[number];
            of_[row] = number;
        }
        std::vector<std::pair<std::uint64_t, std::uint32_t>> sorted(met.size());
        for (std::size_t i = 0; i < met.size(); ++i) sorted[i] = {met[i], static_cast<std::uint32_t>(i)};
        std::sort(sorted.begin(), sorted.end());
        std::vector<std::uint32_t> placeOf(met.size());
        counts_.clear();
        for (std::size_t i = 0; i < sorted.size(); ++i) {
            placeOf[sorted[i].second] = static_cast<std::uint32_t>(i);
            pairs.push_back(sorted[i].first);
            counts_.push_back(counts[sorted[i].second]);
        }
        inRanges([&](std::size_t, std::size_t begin, std::size_t end) {
            for (std::size_t row = begin; row < end; ++row)
                if (of_[row] != kNoGroup) of_[row] = placeOf[of_[row]];
        });
        return true;
    }

    /// The records by innermost group, in the order they came: a counting sort, each thread on a stretch of them.
    void placeRecords() {
        const std::size_t all = given_ ? given_->size() : rows_, leaves = counts_.size();
        std::int64_t place = 0;
        for (std::size_t leaf = 0; leaf < leaves && !out_->nodes.empty(); ++leaf) {
            out_->nodes[out_->leafBegin() + leaf].first = place;
            place += counts_[leaf];
        }
        for (std::size_t n = out_->nodes.empty() ? 0 : out_->leafBegin(); n-- > 0;)
            out_->nodes[n].first = out_->nodes[out_->nodes[n].firstChild].first;
        auto order = std::make_shared<RowOrder>(all);
        const std::size_t threads = leaves * threads_ <= kMostPairs / 4 ? threads_ : 1;
        // How many records of each group a thread has: known from the last level when it went over the same stretch.
        const bool known = !given_ && threads == threads_ && !threadCounts_.empty();
        std::vector<std::vector<std::uint32_t>> next(threads, std::vector<std::uint32_t>(leaves, 0));
        const auto stretch = [&](std::size_t t, const auto& visit) {
            const std::size_t begin = all * t / threads, end = all * (t + 1) / threads;
            if (given_)
                for (std::size_t n = begin; n < end; ++n) visit((*given_)[n]);
            else
                for (std::size_t n = begin; n < end; ++n) visit(static_cast<std::uint32_t>(n));
        };
        if (known)
            for (std::size_t t = 0; t < threads; ++t) std::copy_n(threadCounts_[t].begin(), leaves, next[t].begin());
        else
            inParallel(threads, [&](std::size_t t) {
                std::uint32_t* __restrict count = next[t].data();
                stretch(t, [&](std::uint32_t row) { ++count[leafAt_.empty() ? of_[row] : leafAt_[of_[row]]]; });
            });
        std::uint32_t at = 0;
        for (std::size_t leaf = 0; leaf < leaves; ++leaf)
            for (auto& part : next) at += std::exchange(part[leaf], at);
        inParallel(threads, [&](std::size_t t) {
            std::uint32_t* __restrict to = next[t].data();
            std::uint32_t* __restrict out = order->data();
            std::uint32_t* __restrict of = of_.data();
            if (leafAt_.empty()) return stretch(t, [&](std::uint32_t row) { out[to[of[row]]++] = row; });
            const std::uint32_t* __restrict leafAt = leafAt_.data();
            stretch(t, [&](std::uint32_t row) {
                of[row] = leafAt[of[row]];
                out[to[of[row]]++] = row;
            });
        });
        out_->order = std::move(order);
        if (given_)
            for (std::uint32_t& of : of_)
                if (of == kNoGroup) of = static_cast<std::uint32_t>(out_->leaves());
        out_->leafOf = std::move(of_);
    }

    const RowOrder* given_;
    std::size_t rows_;
    std::size_t threads_;
    const Cancel& cancel_;
    RowOrder of_;         ///< by record: its group on the level just made, or kNoGroup
    bool fresh_ = false;  ///< of_ says nothing yet: all records are in one group
    std::vector<std::vector<std::uint32_t>> threadCounts_;  ///< by thread and group of the level just made
    std::vector<std::int64_t> counts_;                      ///< by group of that level
    std::vector<std::uint32_t> leafAt_;  ///< when of_ says a place among all there could be: the group there
    std::shared_ptr<GroupTree> out_;
};

}  // namespace

std::uint32_t GroupTree::nodeAt(int level, std::int64_t at) const {
    JOLLYROW_REQUIRE(level >= 0 && level < levels() && at >= 0 && at < static_cast<std::int64_t>(order->size()));
    const auto begin = nodes.begin() + levelBegin[static_cast<std::size_t>(level)];
    const auto end = nodes.begin() + levelBegin[static_cast<std::size_t>(level) + 1];
    const auto behind =
        std::upper_bound(begin, end, at, [](std::int64_t place, const GroupNode& node) { return place < node.first; });
    return static_cast<std::uint32_t>(behind - nodes.begin()) - 1;
}

Result<std::shared_ptr<const GroupTree>> groupTree(const std::vector<GroupKeys>& levels, const RowOrder* given,
                                                   std::size_t rows, const Cancel& cancel) {
    return TreeMaker(given, rows, cancel).run(levels);
}

std::shared_ptr<const GroupTree> reordered(const GroupTree& tree, const std::vector<std::uint32_t>& rankOf,
                                           std::vector<std::uint32_t>& from) {
    auto out = std::make_shared<GroupTree>();
    out->levelBegin = tree.levelBegin;
    out->codes = tree.codes;
    out->nodes.reserve(tree.nodes.size());
    from.clear();
    std::vector<std::uint32_t> line;
    for (int level = 0; level < tree.levels(); ++level) {
        const auto add = [&](std::uint32_t first, std::uint32_t end, std::uint32_t parent) {
            line.resize(end - first);
            std::iota(line.begin(), line.end(), first);
            std::stable_sort(line.begin(), line.end(),
                             [&](std::uint32_t a, std::uint32_t b) { return rankOf[a] < rankOf[b]; });
            for (const std::uint32_t old : line) {
                GroupNode node = tree.nodes[old];
                node.parent = parent;
                from.push_back(old);
                out->nodes.push_back(std::move(node));
            }
        };
        if (level == 0) {
            add(0, tree.levelBegin[1], 0);
            continue;
        }
        for (std::uint32_t parent = tree.levelBegin[static_cast<std::size_t>(level) - 1];
             parent < tree.levelBegin[static_cast<std::size_t>(level)]; ++parent) {
            GroupNode& above = out->nodes[parent];
            const auto begin = static_cast<std::uint32_t>(out->nodes.size());
            add(above.firstChild, above.endChild, parent);
            out->nodes[parent].firstChild = begin;
            out->nodes[parent].endChild = static_cast<std::uint32_t>(out->nodes.size());
        }
    }
    auto order = std::make_shared<RowOrder>();
    order->reserve(tree.order->size());
    std::vector<std::uint32_t> leafNow(tree.leaves() + 1, static_cast<std::uint32_t>(tree.leaves()));
    for (std::size_t leaf = 0; leaf < tree.leaves() && tree.levels() > 0; ++leaf) {
        GroupNode& node = out->nodes[out->leafBegin() + leaf];
        leafNow[from[out->leafBegin() + leaf] - tree.leafBegin()] = static_cast<std::uint32_t>(leaf);
        const auto begin = tree.order->begin() + node.first;
        node.first = static_cast<std::int64_t>(order->size());
        order->insert(order->end(), begin, begin + node.count);
    }
    for (std::size_t n = out->leafBegin(); n-- > 0;) out->nodes[n].first = out->nodes[out->nodes[n].firstChild].first;
    out->order = std::move(order);
    out->leafOf = tree.leafOf;
    for (std::uint32_t& leaf : out->leafOf) leaf = leafNow[leaf];
    return out;
}

}  // namespace jollyrow
