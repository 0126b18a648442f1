// SPDX-License-Identifier: MIT
#pragma once
// MergeTree: parts of a row of values put together over any run of them (a segment tree, bottom up). Parts are merged in
// order.

#include <cstddef>
#include <vector>

namespace jollyrow {

/// Part has merge(const Part&), and default-constructed holds nothing.
template <class Part>
class MergeTree final {
  public:
    /// O(values).
    explicit MergeTree(std::vector<Part> values) : size_(values.size()), parts_(2 * values.size()) {
        for (std::size_t i = 0; i < size_; ++i) parts_[size_ + i] = std::move(values[i]);
        for (std::size_t i = size_; i-- > 1;) {
            parts_[i] = parts_[2 * i];
            parts_[i].merge(parts_[2 * i + 1]);
        }
    }
    /// Adds what lies in [begin, end) to `into`. O(log values).
    void collect(std::size_t begin, std::size_t end, Part& into) const {
        Part behind;  // of what is met from the right, which stands behind the rest
        for (begin += size_, end += size_; begin < end; begin /= 2, end /= 2) {
            if (begin % 2 == 1) into.merge(parts_[begin++]);
            if (end % 2 == 1) {
                Part part = parts_[--end];
                part.merge(behind);
                behind = part;
            }
        }
        into.merge(behind);
    }

  private:
    std::size_t size_;
    std::vector<Part> parts_;
};

}  // namespace jollyrow
