// SPDX-License-Identifier: MIT
#pragma once
// Work over many records on a few threads, for the stages of the Rowline.

#include <algorithm>
#include <cstddef>
#include <exception>
#include <thread>
#include <vector>

namespace jollyrow {

inline constexpr std::size_t kMostThreads = 4;
/// Records from which threads earn what they cost, for a few operations on each.
inline constexpr std::size_t kParallelFrom = 65'536;
/// Threads for this many records; below `from`, threads cost more than they save.
inline std::size_t threadsFor(std::size_t rows, std::size_t from) {
    return rows < from ? 1 : std::clamp<std::size_t>(std::thread::hardware_concurrency(), 1, kMostThreads);
}

/// Runs work(0) … work(count - 1), each on a thread of its own, the first on this one. What one of them throws (there
/// is no memory) is thrown here when all have ended.
template <class Work>
void inParallel(std::size_t count, const Work& work) {
    std::vector<std::exception_ptr> thrown(count);
    const auto guarded = [&](std::size_t t) {
        try {
            work(t);
        } catch (...) {
            thrown[t] = std::current_exception();
        }
    };
    {
        std::vector<std::jthread> others;
        for (std::size_t t = 1; t < count; ++t) others.emplace_back([&guarded, t] { guarded(t); });
        guarded(0);
    }
    for (const std::exception_ptr& one : thrown)
        if (one) std::rethrow_exception(one);
}

}  // namespace jollyrow
