// SPDX-License-Identifier: MIT
#pragma once
// The frame of a window (ISO/IEC 9075-2, 7.15 <window clause>): which records around its own one an aggregate or a
// value function sees, in the order of OVER (… ORDER BY …).

#include <cstdint>
#include <string>

namespace jollyrow {

enum class FrameUnit : std::uint8_t {
    Rows,    ///< bounds count records
    Range,   ///< bounds are distances of the value that is ordered by
    Groups,  ///< bounds count groups of records that are equal in that order
};
enum class FrameBound : std::uint8_t { UnboundedPreceding, Preceding, CurrentRow, Following, UnboundedFollowing };
enum class FrameExclusion : std::uint8_t { None, CurrentRow, Group, Ties };

struct WindowFrame {
    FrameUnit unit = FrameUnit::Range;
    FrameBound begin = FrameBound::UnboundedPreceding;
    FrameBound end = FrameBound::CurrentRow;
    FrameExclusion excluded = FrameExclusion::None;
    bool operator==(const WindowFrame&) const = default;
};

/// Preceding and Following stand behind a distance.
constexpr bool hasDistance(FrameBound bound) { return bound == FrameBound::Preceding || bound == FrameBound::Following; }
/// As SQL writes it, with the texts of the distances: "ROWS BETWEEN 1 PRECEDING AND CURRENT ROW".
std::string frameText(const WindowFrame& frame, const std::string& beginDistance, const std::string& endDistance);

}  // namespace jollyrow
