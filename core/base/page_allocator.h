// SPDX-License-Identifier: MIT
#pragma once
// PageAllocator: for large vectors that are written whole before they are read. Leaves new elements uninitialised and
// asks for huge pages: the first touch of many megabytes in small pages costs as much as the work done in them.

#include <sys/mman.h>

#include <cstdlib>
#include <memory>
#include <new>
#include <utility>

namespace jollyrow {

template <class T>
struct PageAllocator {
    using value_type = T;
    static constexpr std::size_t kHugePage = std::size_t{2} << 20;

    PageAllocator() = default;
    template <class U>
    PageAllocator(const PageAllocator<U>&) {}

    T* allocate(std::size_t count) {
        const std::size_t bytes = count * sizeof(T);
        if (bytes < kHugePage) return std::allocator<T>().allocate(count);
        const std::size_t whole = (bytes + kHugePage - 1) / kHugePage * kHugePage;
        void* memory = std::aligned_alloc(kHugePage, whole);
        if (!memory) throw std::bad_alloc();
        madvise(memory, whole, MADV_HUGEPAGE);  // a wish: refused, it changes nothing but the time
        return static_cast<T*>(memory);
    }
    void deallocate(T* memory, std::size_t count) {
        count * sizeof(T) < kHugePage ? std::allocator<T>().deallocate(memory, count) : std::free(memory);
    }
    template <class U>
    void construct(U* place) {
        ::new (static_cast<void*>(place)) U;
    }
    template <class U, class... Args>
    void construct(U* place, Args&&... args) {
        ::new (static_cast<void*>(place)) U(std::forward<Args>(args)...);
    }
    bool operator==(const PageAllocator&) const { return true; }
};

}  // namespace jollyrow
