// SPDX-License-Identifier: MIT
#pragma once
// NewestFirst: one thread for what is wanted now and soon no more, as pictures of lines that are scrolled past: the job
// asked for last runs first, and of too many that wait the oldest is dropped. Locked inside.

#include <condition_variable>
#include <deque>
#include <functional>
#include <mutex>
#include <thread>
#include <utility>

namespace jollyrow {

class NewestFirst final {
  public:
    struct Job {
        std::function<void()> run;
        std::function<void()> dropped;  ///< instead of run, on the asking thread or, at the end, on none
    };
    explicit NewestFirst(std::size_t most) : most_(most) {}
    ~NewestFirst() { stop(); }
    NewestFirst(const NewestFirst&) = delete;
    NewestFirst& operator=(const NewestFirst&) = delete;

    void run(Job job) {
        std::function<void()> dropped;
        {
            const std::lock_guard lock(mutex_);
            if (stopping_) return;
            if (!thread_.joinable()) thread_ = std::thread([this] { loop(); });
            jobs_.push_back(std::move(job));
            if (jobs_.size() > most_) {
                dropped = std::move(jobs_.front().dropped);
                jobs_.pop_front();
            }
        }
        wake_.notify_one();
        if (dropped) dropped();
    }
    /// Drops what waits and waits for the job that runs.
    void stop() {
        {
            const std::lock_guard lock(mutex_);
            stopping_ = true;
            jobs_.clear();
        }
        wake_.notify_one();
        if (thread_.joinable()) thread_.join();
    }

  private:
    void loop() {
        std::unique_lock lock(mutex_);
        for (;;) {
            wake_.wait(lock, [this] { return stopping_ || !jobs_.empty(); });
            if (stopping_) return;
            const std::function<void()> job = std::move(jobs_.back().run);
            jobs_.pop_back();
            lock.unlock();
            job();
            lock.lock();
        }
    }

    const std::size_t most_;
    std::mutex mutex_;
    std::condition_variable wake_;
    std::deque<Job> jobs_;   // guarded by mutex_
    bool stopping_ = false;  // guarded by mutex_
    std::thread thread_;     // guarded by mutex_ until stopping
};

}  // namespace jollyrow
