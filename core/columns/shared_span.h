// SPDX-License-Identifier: MIT
#pragma once
// SharedSpan and GrowBuffer: an array that one thread appends to while others read the part already handed out.
// The writer only ever writes past every span given away, and moves to a new block when it must grow, so readers
// need no lock. Handing a span to another thread is the caller's synchronisation (a queue, a lock).

#include <algorithm>
#include <cassert>
#include <cstddef>
#include <cstring>
#include <memory>
#include <span>
#include <type_traits>

namespace jollyrow {

/// An immutable run of T that keeps its block alive.
template <class T>
class SharedSpan {
  public:
    SharedSpan() = default;
    SharedSpan(std::shared_ptr<const T[]> block, std::size_t size) : block_(std::move(block)), size_(size) {}
    const T* data() const { return block_.get(); }
    std::size_t size() const { return size_; }
    bool empty() const { return size_ == 0; }
    const T& operator[](std::size_t i) const { return block_[static_cast<std::ptrdiff_t>(i)]; }
    std::span<const T> span() const { return {block_.get(), size_}; }

  private:
    std::shared_ptr<const T[]> block_;
    std::size_t size_ = 0;
};

/// Confined to the writing thread; the spans it hands out are not.
template <class T>
class GrowBuffer {
    static_assert(std::is_trivially_copyable_v<T>);

  public:
    void reserve(std::size_t capacity) {
        if (capacity <= capacity_) return;
        // Uninitialised on purpose: pages never written are never resident, so a generous estimate costs nothing.
        std::shared_ptr<T[]> block(new T[capacity]);
        if (size_ != 0) std::memcpy(block.get(), block_.get(), size_ * sizeof(T));
        block_ = std::move(block);
        capacity_ = capacity;
    }
    void append(const T* values, std::size_t count) {
        grow(count);
        if (count != 0) std::memcpy(block_.get() + size_, values, count * sizeof(T));
        size_ += count;
    }
    void push(T value) {
        grow(1);
        block_[static_cast<std::ptrdiff_t>(size_++)] = value;
    }
    /// Room for `count` more values, to be filled by the caller before the next call.
    T* extend(std::size_t count) {
        grow(count);
        T* start = block_.get() + size_;
        size_ += count;
        return start;
    }
    T& last() { return block_[static_cast<std::ptrdiff_t>(size_ - 1)]; }
    const T* data() const { return block_.get(); }
    std::size_t size() const { return size_; }
    std::size_t byteSize() const { return capacity_ * sizeof(T); }
    SharedSpan<T> share() const { return {block_, size_}; }

  private:
    void grow(std::size_t more) {
        if (size_ + more > capacity_) reserve(std::max({size_ + more, capacity_ + capacity_ / 2, std::size_t{64}}));
    }
    std::shared_ptr<T[]> block_;
    std::size_t size_ = 0;
    std::size_t capacity_ = 0;
};

}  // namespace jollyrow
