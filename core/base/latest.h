// SPDX-License-Identifier: MIT
#pragma once
// Latest: of requests of one kind only the newest counts. Each one cancels the one before, whose answer is dropped.
// Confined to the owner's thread; a turn may be taken to a worker, which polls its `cancel`.

#include <cstdint>

#include "core/base/cancel.h"

namespace jollyrow {

class Latest final {
  public:
    struct Turn {
        Cancel cancel;
        std::uint64_t number = 0;
    };
    Turn next() {
        cancel_.request();
        cancel_ = Cancel();
        return {cancel_, ++number_};
    }
    bool isNewest(const Turn& turn) const { return turn.number == number_; }
    void cancel() { cancel_.request(); }

  private:
    Cancel cancel_;
    std::uint64_t number_ = 0;
};

}  // namespace jollyrow
