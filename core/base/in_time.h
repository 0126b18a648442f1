// SPDX-License-Identifier: MIT
#pragma once
// In time: something is read on a worker, and a window that needs it to go on waits for it no longer than part of a
// frame. What takes longer is handed over when it is there.

#include <chrono>
#include <condition_variable>
#include <functional>
#include <memory>
#include <mutex>
#include <optional>

#include "core/base/post.h"
#include "core/base/worker.h"

namespace jollyrow {

/// How long an owner's thread waits for what it reads before it goes on without: 10 ms, so that a window keeps its
/// frames. For the whole process; any thread may ask and set it. Programs without a person before them, as tests, may
/// rather wait.
std::chrono::milliseconds longestWait();
void setLongestWait(std::chrono::milliseconds wait);

/// Runs `read` on the worker. Its answer, when it comes within `wait`; else nullopt now, and `late(answer)` on the
/// owner's thread, by `post`, as soon as it is there.
template <class T>
std::optional<T> inTime(Worker& worker, const Post& post, std::chrono::nanoseconds wait, std::function<T()> read,
                        std::function<void(const T&)> late) {
    struct Meeting {
        std::mutex mutex;
        std::condition_variable there;
        std::optional<T> answer;  // guarded by mutex
        bool isLate = false;      // guarded by mutex
    };
    auto meeting = std::make_shared<Meeting>();
    worker.run([meeting, post, read = std::move(read), late = std::move(late)] {
        T answer = read();
        {
            const std::lock_guard lock(meeting->mutex);
            if (!meeting->isLate) {
                meeting->answer = std::move(answer);
                meeting->there.notify_one();
                return;
            }
        }
        post([late, answer = std::move(answer)] { late(answer); });
    });
    std::unique_lock lock(meeting->mutex);
    if (meeting->there.wait_for(lock, wait, [&] { return meeting->answer.has_value(); }))
        return std::move(meeting->answer);
    meeting->isLate = true;
    return std::nullopt;
}

}  // namespace jollyrow
