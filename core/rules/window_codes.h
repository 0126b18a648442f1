// SPDX-License-Identifier: MIT
#pragma once
// Values as whole numbers that have their order: what partitions are told apart by, orders sorted by, and extremes
// found by. Equal values have equal codes; 1.5 and 1.50 are one value.

#include <cstdint>
#include <optional>
#include <vector>

#include "core/rules/window_column.h"

namespace jollyrow {

struct CodeOrder {
    bool isOrdered = true;  ///< else equal values are only told apart
    bool descending = false;
    bool emptiesFirst = false;  ///< empties and failures stand together, first or last
};

struct WindowCodes {
    std::vector<std::uint64_t> codes;  ///< by record
    std::uint64_t most = 0;            ///< none is larger
};

/// O(records); for texts, and decimals that do not fit 64 bits, O(distinct * log distinct) more.
WindowCodes codesOf(const WindowColumn& values, const CodeOrder& order);

/// The decimals or whole numbers of a column at one scale, the largest that one of them has; nullopt when one does not fit 128 bits so.
std::optional<std::vector<Int128>> atOneScale(const WindowColumn& values, int& scale);

/// The order of doubles as that of whole numbers: NaN last, -0 as 0.
std::uint64_t orderedBits(double value);

}  // namespace jollyrow
