// SPDX-License-Identifier: MIT
// Covered by tests/session/session_test.cpp and session_model_test.cpp.
#include "core/editing/save_queue.h"

namespace jollyrow {

Result<StoredRecord> SaveQueue::write(Save save) {
    if (!store_) {
        auto opened = open_();
        if (!opened) return opened.error();
        store_ = std::move(*opened);
    }
    if (const auto earlier = left_.find(save.after); earlier != left_.end())
        save.request.changes.front().before = earlier->second;
    for (const auto& [part, serial] : save.keyAfter)
        if (const auto earlier = left_.find(serial); earlier != left_.end()) save.request.key[part] = earlier->second;
    auto answer = writeOne(*store_, save.request);
    // One that failed left what an earlier one had.
    left_.emplace(save.serial, answer ? answer->values.front() : save.request.changes.front().before);
    constexpr std::size_t kMostKept = 4096;  // far more than can be without an answer at a time
    if (left_.size() > kMostKept) left_.erase(left_.begin());
    return answer;
}

}  // namespace jollyrow
