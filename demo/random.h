// SPDX-License-Identifier: MIT
#pragma once
// A small seeded generator (SplitMix64, Steele et al. 2014) whose numbers are the same on every machine, which the
// standard library's distributions do not promise.

#include <cstddef>
#include <cstdint>

namespace jollyrow::demo {

class Random {
  public:
    explicit Random(std::uint64_t seed) : state_(seed) {}
    std::uint64_t next() {
        std::uint64_t z = (state_ += 0x9e3779b97f4a7c15ULL);
        z = (z ^ (z >> 30)) * 0xbf58476d1ce4e5b9ULL;
        z = (z ^ (z >> 27)) * 0x94d049bb133111ebULL;
        return z ^ (z >> 31);
    }
    /// Uniform in [low, high].
    std::int64_t between(std::int64_t low, std::int64_t high) {
        return low + static_cast<std::int64_t>(next() % static_cast<std::uint64_t>(high - low + 1));
    }
    bool oneIn(std::int64_t n) { return between(1, n) == 1; }
    template <class List>
    const auto& pick(const List& list) {
        return list[static_cast<std::size_t>(next() % list.size())];
    }

  private:
    std::uint64_t state_;
};

}  // namespace jollyrow::demo
