// SPDX-License-Identifier: MIT
// Covered by tests/sources/sharing_test.cpp.
#include "core/sources/sqlite/file_gate.h"

#include <chrono>
#include <map>
#include <utility>

namespace jollyrow::sqlite {

std::shared_ptr<FileGate> FileGate::of(const std::string& file) {
    static std::mutex mutex;
    static std::map<std::string, std::weak_ptr<FileGate>> gates;
    const std::lock_guard lock(mutex);
    std::erase_if(gates, [](const auto& gate) { return gate.second.expired(); });
    auto known = gates[file].lock();
    if (!known) gates[file] = known = std::make_shared<FileGate>();
    return known;
}

FileGate::Reading::Reading(std::shared_ptr<FileGate> gate, const Cancel& cancel) : gate_(std::move(gate)) {
    constexpr std::chrono::milliseconds kLook{5};  // a cancel wakes nobody
    std::unique_lock lock(gate_->mutex_);
    while (gate_->isWriting_ || gate_->waitingWriters_ > 0) {
        if (cancel.requested()) return;
        gate_->changed_.wait_for(lock, kLook);
    }
    isIn_ = true;
    ++gate_->readers_;
}

FileGate::Reading::~Reading() {
    if (!isIn_) return;
    const std::lock_guard lock(gate_->mutex_);
    --gate_->readers_;
    gate_->changed_.notify_all();
}

FileGate::Writing::Writing(std::shared_ptr<FileGate> gate) : gate_(std::move(gate)) {
    if (!gate_) return;
    std::unique_lock lock(gate_->mutex_);
    ++gate_->waitingWriters_;
    gate_->changed_.wait(lock, [this] { return !gate_->isWriting_ && gate_->readers_ == 0; });
    --gate_->waitingWriters_;
    gate_->isWriting_ = true;
}

FileGate::Writing::~Writing() {
    if (!gate_) return;
    const std::lock_guard lock(gate_->mutex_);
    gate_->isWriting_ = false;
    gate_->changed_.notify_all();
}

}  // namespace jollyrow::sqlite
