// SPDX-License-Identifier: MIT
#pragma once
// Where the frame of each record begins and ends, in places of the order.

#include <array>
#include <cstdint>
#include <optional>
#include <vector>

#include "core/columns/time_zone.h"
#include "core/rules/window_frame.h"
#include "core/rules/window_order.h"

namespace jollyrow {

/// A run of places; empty when begin >= end.
struct Places {
    std::uint32_t begin = 0, end = 0;
};

struct Frames {
    std::vector<Places> of;  ///< by place
    FrameExclusion excluded = FrameExclusion::None;

    /// What is left of a frame when the exclusion is taken out: up to three runs, in order; empty ones are left out.
    struct Runs {
        std::array<Places, 3> runs;
        std::size_t count = 0;
        const Places* begin() const { return runs.data(); }
        const Places* end() const { return runs.data() + count; }
        std::uint32_t size() const;
    };
    Runs runsAt(std::uint32_t place, const WindowOrder& order) const;
};

/// What distances of RANGE are counted in: the values ordered by, and the zone of instants.
struct FrameKey {
    const WindowColumn* values = nullptr;
    bool descending = false;
    const TimeZone* zone = nullptr;
};

/// Distances as they were evaluated, null where the bound has none. nullopt when one is empty or negative. O(records).
std::optional<Frames> framesOf(const WindowFrame& frame, const RuleValue* beginDistance, const RuleValue* endDistance,
                               const FrameKey& key, const WindowOrder& order);

}  // namespace jollyrow
