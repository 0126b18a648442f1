// SPDX-License-Identifier: MIT
// Covered by tests/columns/row_map_test.cpp.
#include "core/base/row_map.h"

namespace jollyrow {

std::uint64_t nextMapMaker() {
    static std::atomic<std::uint64_t> last = 0;
    return last.fetch_add(1, std::memory_order_relaxed) + 1;
}

}  // namespace jollyrow
