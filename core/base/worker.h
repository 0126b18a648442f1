// SPDX-License-Identifier: MIT
#pragma once
// Worker: one thread that runs jobs in turn, at a lower priority than the window's, so that heavy work leaves the
// window its frames. Threads started by a job inherit the priority. Jobs still waiting when it is destroyed are
// dropped; the running one is waited for. Locked inside.

#include <condition_variable>
#include <deque>
#include <functional>
#include <mutex>
#include <thread>

namespace jollyrow {

class Worker final {
  public:
    Worker();
    ~Worker();
    Worker(const Worker&) = delete;
    Worker& operator=(const Worker&) = delete;

    void run(std::function<void()> job);
    /// Runs what still waits, then stops. For work that must not be lost.
    void finish();
    /// Drops what still waits and waits for the job that runs; nothing runs here any more afterwards.
    void stop();

  private:
    void loop();
    std::mutex mutex_;
    std::condition_variable wake_;
    std::deque<std::function<void()>> jobs_;  // guarded by mutex_
    bool stopping_ = false;                   // guarded by mutex_
    std::thread thread_;
};

}  // namespace jollyrow
