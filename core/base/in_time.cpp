// SPDX-License-Identifier: MIT
// Covered by tests/session/schema_desk_test.cpp.
#include "core/base/in_time.h"

#include <atomic>

namespace jollyrow {
namespace {
std::atomic<std::int64_t> waitMs{10};
}

std::chrono::milliseconds longestWait() { return std::chrono::milliseconds(waitMs.load()); }
void setLongestWait(std::chrono::milliseconds wait) { waitMs.store(wait.count()); }

}  // namespace jollyrow
