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
    /// At most `most` of those that wait now or come meanwhile. Returns how many there were.
    std::size_t pump(std::size_t most = 1'000'000) {
        for (std::size_t done = 0; done < most; ++done) {
            std::function<void()> call;
            {
                const std::lock_guard lock(mutex_);
                if (calls_.empty()) return done;
                call = std::move(calls_.front());
                calls_.pop_front();
            }
            call();
        }
        return most;
    }

  private:
    std::mutex mutex_;
    std::deque<std::function<void()>> calls_;
};

}  // namespace jollyrow
