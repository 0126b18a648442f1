// SPDX-License-Identifier: MIT
#pragma once
// The records of each partition in the order of OVER (… ORDER BY …): which stand together, and which are equal there.

#include <cstdint>
#include <span>
#include <vector>

#include "core/base/cancel.h"
#include "core/rules/window_codes.h"

namespace jollyrow {

struct WindowOrder {
    std::vector<std::uint32_t> rows;        ///< records by place; ties in their bound order
    std::vector<std::uint32_t> groupBegin;  ///< places where partitions begin, and the end behind the last
    std::vector<std::uint32_t> peerBegin;   ///< by place: of the records that are equal to it in the order
    std::vector<std::uint32_t> peerEnd;     ///< and behind their last
    /// Of partitions: by place which it is in.
    std::uint32_t groupAt(std::size_t place) const;
};

/// The partitions as numbers from 0, by record; `count` says how many. Keys are codes of equal length. O(records * keys).
std::vector<std::uint32_t> partitionsOf(std::span<const WindowCodes> keys, std::size_t rows, std::uint32_t& count);

/// Sorts the records that `counts` names, by partition and then by the keys. Bytes of codes that are the same for all
/// are not looked at. O(records * bytes). False when cancelled.
bool orderRecords(std::span<const std::uint32_t> groupOf, std::uint32_t groups, std::span<const WindowCodes> keys,
                  const std::vector<std::uint32_t>& counting, const Cancel& cancel, WindowOrder& made);

}  // namespace jollyrow
