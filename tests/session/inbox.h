// SPDX-License-Identifier: MIT
#pragma once
// The owner's thread of a session in tests: calls wait until the test pumps them.

#include <deque>
#include <functional>
#include <mutex>

namespace jollyrow {

class Inbox {
  public:
    void post(std::function<void()> call) {
        const std::lock_guard lock(mutex_);
        calls_.push_back(std::move(call));
    }
    /// At most `most` of those that wait now or come meanwhile.
    void pump(std::size_t most = 1'000'000) {
        while (most-- > 0) {
            std::function<void()> call;
            {
                const std::lock_guard lock(mutex_);
                if (calls_.empty()) return;
                call = std::move(calls_.front());
                calls_.pop_front();
            }
            call();
        }
    }

  private:
    std::mutex mutex_;
    std::deque<std::function<void()>> calls_;
};

}  // namespace jollyrow
