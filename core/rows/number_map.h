// SPDX-License-Identifier: MIT
#pragma once
// NumberMap: 64-bit keys to dense numbers in order of appearance, by open addressing (linear probing, half full).

#include <algorithm>
#include <cstddef>
#include <cstdint>
#include <vector>

namespace jollyrow {

/// Confined to one thread. At most 2^32 - 1 keys.
class NumberMap final {
  public:
    /// The key's number; a new key gets the next one, size() before the call. O(1).
    std::uint32_t of(std::uint64_t key) {
        if (2 * (size_ + 1) > slots_.size()) grow();
        for (std::size_t at = hash(key);; ++at) {
            Slot& slot = slots_[at & (slots_.size() - 1)];
            if (slot.number == kNone) {
                slot = {key, static_cast<std::uint32_t>(size_++)};
                return slot.number;
            }
            if (slot.key == key) return slot.number;
        }
    }
    std::size_t size() const { return size_; }

  private:
    static constexpr std::uint32_t kNone = ~std::uint32_t{0};
    struct Slot {
        std::uint64_t key = 0;
        std::uint32_t number = kNone;
    };
    static std::size_t hash(std::uint64_t key) {
        key *= 0x9E3779B97F4A7C15ULL;  // Fibonacci hashing
        return static_cast<std::size_t>(key ^ (key >> 32));
    }
    void grow() {
        std::vector<Slot> old = std::move(slots_);
        slots_.assign(std::max<std::size_t>(1024, old.size() * 2), {});
        for (const Slot& slot : old) {
            if (slot.number == kNone) continue;
            std::size_t at = hash(slot.key);
            while (slots_[at & (slots_.size() - 1)].number != kNone) ++at;
            slots_[at & (slots_.size() - 1)] = slot;
        }
    }
    std::vector<Slot> slots_;
    std::size_t size_ = 0;
};

}  // namespace jollyrow
