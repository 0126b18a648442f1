// SPDX-License-Identifier: MIT
#pragma once
// While it lives the owner's thread waits only as long as a window would, or not at all (tests/patient.cpp).

#include "core/base/in_time.h"

namespace jollyrow {

class Hasty final {
  public:
    explicit Hasty(std::chrono::milliseconds wait = std::chrono::milliseconds(10)) : before_(longestWait()) {
        setLongestWait(wait);
    }
    ~Hasty() { setLongestWait(before_); }
    Hasty(const Hasty&) = delete;
    Hasty& operator=(const Hasty&) = delete;

  private:
    const std::chrono::milliseconds before_;
};

}  // namespace jollyrow
