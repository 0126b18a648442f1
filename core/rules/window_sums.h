// SPDX-License-Identifier: MIT
#pragma once
// Sums over frames: counts, exact sums and their means and variances, compensated sums of doubles, yes and no, joined
// texts; and the place of the smallest or largest value.

#include "core/base/cancel.h"
#include "core/rules/program.h"
#include "core/rules/window_frames.h"

namespace jollyrow {

/// One figure for each record of the order, by its number; `out` has room for all records. `first` and `second` are the arguments by record, null where there are none.
/// Exact sums of whole numbers and decimals take O(1) a frame, everything else O(log records); texts as long as they
/// come out. Requires: spec.aggregate sums up and is not the application's. False when cancelled.
bool sumFrames(const WindowSpec& spec, const WindowColumn* first, const WindowColumn* second, const Frames& frames,
               const WindowOrder& order, const Cancel& cancel, WindowColumn& out);

/// By place the record that has the frame's extreme; kNoRecord for a frame without values.
inline constexpr std::uint32_t kNoRecord = 0xFFFF'FFFF;
std::vector<std::uint32_t> extremesOf(bool smallest, const WindowColumn& values, const Frames& frames,
                                      const WindowOrder& order);

}  // namespace jollyrow
