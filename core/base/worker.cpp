// SPDX-License-Identifier: MIT
#include "core/base/worker.h"

#include <sys/resource.h>
#include <sys/syscall.h>
#include <unistd.h>

namespace jollyrow {

Worker::Worker() : thread_([this] { loop(); }) {}

Worker::~Worker() { stop(); }

void Worker::stop() {
    {
        const std::lock_guard lock(mutex_);
        jobs_.clear();
    }
    finish();
}

void Worker::finish() {
    {
        const std::lock_guard lock(mutex_);
        stopping_ = true;
    }
    wake_.notify_all();
    if (thread_.joinable()) thread_.join();
}

void Worker::run(std::function<void()> job) {
    {
        const std::lock_guard lock(mutex_);
        if (stopping_) return;
        jobs_.push_back(std::move(job));
    }
    wake_.notify_one();
}

void Worker::loop() {
    constexpr int kNicer = 5;
    // A wish: refused, the work is done all the same.
    setpriority(PRIO_PROCESS, static_cast<id_t>(syscall(SYS_gettid)), kNicer);
    for (;;) {
        std::function<void()> job;
        {
            std::unique_lock lock(mutex_);
            wake_.wait(lock, [this] { return stopping_ || !jobs_.empty(); });
            if (jobs_.empty()) return;
            job = std::move(jobs_.front());
            jobs_.pop_front();
        }
        job();
    }
}

}  // namespace jollyrow
