// SPDX-License-Identifier: MIT
#pragma once
// Cancel: asks a running job to stop. Copies share one flag; any thread may ask, any may look.

#include <atomic>
#include <memory>

namespace jollyrow {

class Cancel {
  public:
    Cancel() : flag_(std::make_shared<std::atomic<bool>>(false)) {}
    void request() const { flag_->store(true, std::memory_order_relaxed); }
    bool requested() const { return flag_->load(std::memory_order_relaxed); }

  private:
    std::shared_ptr<std::atomic<bool>> flag_;
};

}  // namespace jollyrow
