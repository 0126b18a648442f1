// SPDX-License-Identifier: MIT
#pragma once
// History: undo and redo as a list of named steps, each a value. The owner applies what undo() and redo() return.
// Confined to one thread.

#include <cstddef>
#include <string>
#include <utility>
#include <vector>

namespace jollyrow {

template <class Change>
class History final {
  public:
    struct Step {
        std::string label;  ///< "Widen Due"
        Change change;
    };

    /// Drops what could have been redone.
    void push(std::string label, Change change) {
        steps_.resize(done_);
        steps_.push_back({std::move(label), std::move(change)});
        ++done_;
        if (steps_.size() > kMost) {
            steps_.erase(steps_.begin());
            --done_;
        }
    }
    /// The last step done, nullptr when there is none.
    const Step* last() const { return done_ == 0 ? nullptr : &steps_[done_ - 1]; }
    /// Makes the last step part of what came: one gesture, one undo.
    Step* lastToExtend() { return done_ != 0 && done_ == steps_.size() ? &steps_[done_ - 1] : nullptr; }
    const Step* next() const { return done_ == steps_.size() ? nullptr : &steps_[done_]; }
    /// Requires: last(). The step to take back.
    const Step& undo() { return steps_[--done_]; }
    /// Requires: next(). The step to do again.
    const Step& redo() { return steps_[done_++]; }
    void clear() { *this = {}; }

  private:
    static constexpr std::size_t kMost = 1000;
    std::vector<Step> steps_;
    std::size_t done_ = 0;
};

}  // namespace jollyrow
