// SPDX-License-Identifier: MIT
// Covered by tests/rules/window_oracle_test.cpp.
#include "core/rules/window_frame.h"

#include <fmt/format.h>

#include <string_view>

namespace jollyrow {
namespace {

std::string boundText(FrameBound bound, const std::string& distance) {
    switch (bound) {
        case FrameBound::UnboundedPreceding: return "UNBOUNDED PRECEDING";
        case FrameBound::Preceding: return distance + " PRECEDING";
        case FrameBound::CurrentRow: return "CURRENT ROW";
        case FrameBound::Following: return distance + " FOLLOWING";
        case FrameBound::UnboundedFollowing: return "UNBOUNDED FOLLOWING";
    }
    return {};
}

std::string_view exclusionText(FrameExclusion excluded) {
    switch (excluded) {
        case FrameExclusion::None: return "";
        case FrameExclusion::CurrentRow: return " EXCLUDE CURRENT ROW";
        case FrameExclusion::Group: return " EXCLUDE GROUP";
        case FrameExclusion::Ties: return " EXCLUDE TIES";
    }
    return {};
}

}  // namespace

std::string frameText(const WindowFrame& frame, const std::string& beginDistance, const std::string& endDistance) {
    const std::string_view unit = frame.unit == FrameUnit::Rows    ? "ROWS"
                                  : frame.unit == FrameUnit::Range ? "RANGE"
                                                                   : "GROUPS";
    return fmt::format("{} BETWEEN {} AND {}{}", unit, boundText(frame.begin, beginDistance),
                       boundText(frame.end, endDistance), exclusionText(frame.excluded));
}

}  // namespace jollyrow
