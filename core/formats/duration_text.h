// SPDX-License-Identifier: MIT
#pragma once
// Spans of time as people type them into a column of durations.

#include <cstdint>
#include <optional>
#include <string_view>
#include <vector>

#include "core/columns/decimal.h"
#include "core/formats/format_engine.h"

namespace jollyrow {

/// Microseconds that a text means. As the pattern writes it ("1:30", "1 h 30 min"); by units, from large to small, each
/// once and a fraction on the last: "1h 30m", "90 min", "1.5 hours", "2d 4h", "-45 m", "1h30" (a last number without
/// one counts the next smaller unit); or as ISO 8601-1 5.5.2 has it: "PT1H30M". nullopt for anything else, a bare
/// number included: it counts what the column counts. O(text).
std::optional<Int128> durationMicros(std::string_view text, const std::vector<DurationPiece>& pattern);

}  // namespace jollyrow
