// SPDX-License-Identifier: MIT
#pragma once
// RowMap: values by record number that are never changed in place: with() gives the next map and shares with this one
// all but the way to the one record. A million copies of a map cost what differs between them. A tree of 32 branches a
// level with only the used ones stored (Bagwell, Ideal Hash Trees, 2001), over the numbers themselves, so that it is in
// their order. Any thread may read.
//
// put() and take() are for a map that is being made and that nobody else holds: what it has made itself it changes in
// place. A copy shares all of it; from then on neither changes what both have.

#include <atomic>
#include <bit>
#include <cstdint>
#include <memory>
#include <utility>
#include <vector>

namespace jollyrow {

/// One that was never given before. In the library alone: two of its kind in one program would give a number twice.
std::uint64_t nextMapMaker();

template <class T>
class RowMap final {
  public:
    RowMap() = default;
    RowMap(const RowMap& other) : root_(other.root_), size_(other.size_) {
        if (other.maker_.load(std::memory_order_relaxed) != 0) other.maker_.store(0, std::memory_order_relaxed);
    }
    RowMap(RowMap&& other) noexcept
        : root_(std::move(other.root_)),
          size_(std::exchange(other.size_, 0)),
          maker_(other.maker_.exchange(0, std::memory_order_relaxed)) {}
    RowMap& operator=(RowMap other) noexcept {
        root_ = std::move(other.root_);
        size_ = other.size_;
        maker_.store(other.maker_.load(std::memory_order_relaxed), std::memory_order_relaxed);
        return *this;
    }
    ~RowMap() = default;
    bool empty() const { return size_ == 0; }
    std::size_t size() const { return size_; }
    /// Null when the record has none. O(1): seven steps.
    const T* find(std::uint32_t row) const {
        const Node* node = root_.get();
        for (int shift = kTop; node && shift > 0; shift -= kBits) {
            const auto* next = node->child(digit(row, shift));
            node = next ? next->get() : nullptr;
        }
        return node ? node->value(digit(row, 0)) : nullptr;
    }
    /// O(1).
    RowMap with(std::uint32_t row, T value) const {
        RowMap next;
        next.size_ = size_ + (find(row) ? 0 : 1);
        next.root_ = set(root_.get(), kTop, row, &value);
        return next;
    }
    RowMap without(std::uint32_t row) const {
        if (!find(row)) return *this;
        RowMap next;
        next.size_ = size_ - 1;
        next.root_ = set(root_.get(), kTop, row, nullptr);
        return next;
    }
    /// with() in this map itself.
    void put(std::uint32_t row, T value) {
        size_ += find(row) ? 0 : 1;
        change(root_, kTop, row, &value, maker());
    }
    /// without() in this map itself.
    void take(std::uint32_t row) {
        if (!find(row)) return;
        --size_;
        change(root_, kTop, row, nullptr, maker());
    }
    /// Calls visit(row, value) in rising order. O(values).
    template <class Visit>
    void forEach(const Visit& visit) const {
        if (root_) walk(*root_, kTop, 0, visit);
    }
    /// Calls visit(row, value here or null, value there or null) for the records whose values the two maps do not
    /// share, in rising order. O(what differs).
    template <class Visit>
    static void forEachDifference(const RowMap& a, const RowMap& b, const Visit& visit) {
        differ(a.root_.get(), b.root_.get(), kTop, 0, visit);
    }

  private:
    static constexpr int kBits = 5, kTop = 30;
    static constexpr std::uint32_t digit(std::uint32_t row, int shift) { return (row >> shift) & 31U; }

    struct Node {
        std::uint64_t maker = 0;                            ///< the one map that has it and changes it; 0 = none
        std::uint32_t used = 0;                             ///< a bit for each branch that there is
        std::vector<std::shared_ptr<const Node>> children;  ///< of those, in order; above the last level
        std::vector<std::shared_ptr<const T>> values;       ///< on the last level
        bool has(std::uint32_t at) const { return ((used >> at) & 1U) != 0; }
        std::size_t place(std::uint32_t at) const {
            return static_cast<std::size_t>(std::popcount(used & ((1U << at) - 1U)));
        }
        const std::shared_ptr<const Node>* child(std::uint32_t at) const {
            return has(at) ? &children[place(at)] : nullptr;
        }
        const T* value(std::uint32_t at) const { return has(at) ? values[place(at)].get() : nullptr; }
    };

    /// Puts `now` at a branch, or takes the branch out for null.
    template <class Branch>
    static void put(Node& node, std::vector<Branch>& branches, std::uint32_t at, Branch now) {
        const auto place = branches.begin() + static_cast<std::ptrdiff_t>(node.place(at));
        if (!now) {
            if (node.has(at)) branches.erase(place);
            node.used &= ~(1U << at);
        } else if (node.has(at)) {
            *place = std::move(now);
        } else {
            branches.insert(place, std::move(now));
            node.used |= 1U << at;
        }
    }
    /// `value` null: taken out. Null when nothing is left.
    static std::shared_ptr<const Node> set(const Node* node, int shift, std::uint32_t row, T* value) {
        auto next = node ? std::make_shared<Node>(*node) : std::make_shared<Node>();
        next->maker = 0;
        const std::uint32_t at = digit(row, shift);
        if (shift == 0) {
            put(*next, next->values, at,
                value ? std::make_shared<const T>(std::move(*value)) : std::shared_ptr<const T>());
        } else {
            const auto* below = node ? node->child(at) : nullptr;
            put(*next, next->children, at, set(below ? below->get() : nullptr, shift - kBits, row, value));
        }
        if (next->used == 0) return nullptr;
        return next;
    }
    /// Numbers are never given again: what a map has made is known by its own.
    std::uint64_t maker() {
        if (maker_.load(std::memory_order_relaxed) == 0) maker_.store(nextMapMaker(), std::memory_order_relaxed);
        return maker_.load(std::memory_order_relaxed);
    }
    /// The same in place where the map has made the node.
    static void change(std::shared_ptr<const Node>& slot, int shift, std::uint32_t row, T* value, std::uint64_t maker) {
        if (!slot || slot->maker != maker) {
            auto made = slot ? std::make_shared<Node>(*slot) : std::make_shared<Node>();
            made->maker = maker;
            slot = std::move(made);
        }
        Node& node = const_cast<Node&>(*slot);  // made above, or in a call before, as one that can be changed
        const std::uint32_t at = digit(row, shift);
        if (shift == 0) {
            put(node, node.values, at,
                value ? std::make_shared<const T>(std::move(*value)) : std::shared_ptr<const T>());
        } else {
            auto below = node.has(at) ? std::move(node.children[node.place(at)]) : std::shared_ptr<const Node>();
            change(below, shift - kBits, row, value, maker);
            put(node, node.children, at, std::move(below));
        }
        if (node.used == 0) slot = nullptr;
    }
    template <class Visit>
    static void walk(const Node& node, int shift, std::uint32_t row, const Visit& visit) {
        std::size_t place = 0;
        for (std::uint32_t left = node.used; left != 0; left &= left - 1, ++place) {
            const std::uint32_t next = row | static_cast<std::uint32_t>(std::countr_zero(left)) << shift;
            if (shift == 0)
                visit(next, *node.values[place]);
            else
                walk(*node.children[place], shift - kBits, next, visit);
        }
    }
    template <class Visit>
    static void differ(const Node* a, const Node* b, int shift, std::uint32_t row, const Visit& visit) {
        if (a == b) return;
        for (std::uint32_t left = (a ? a->used : 0) | (b ? b->used : 0); left != 0; left &= left - 1) {
            const auto at = static_cast<std::uint32_t>(std::countr_zero(left));
            const std::uint32_t next = row | at << shift;
            if (shift == 0) {
                const T *here = a ? a->value(at) : nullptr, *there = b ? b->value(at) : nullptr;
                if (here != there) visit(next, here, there);
            } else {
                const auto *here = a ? a->child(at) : nullptr, *there = b ? b->child(at) : nullptr;
                differ(here ? here->get() : nullptr, there ? there->get() : nullptr, shift - kBits, next, visit);
            }
        }
    }

    std::shared_ptr<const Node> root_;
    std::size_t size_ = 0;
    mutable std::atomic<std::uint64_t> maker_ = 0;  ///< of the nodes that no other map has; 0 = there are none
};

}  // namespace jollyrow
