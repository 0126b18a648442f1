// SPDX-License-Identifier: MIT
#pragma once
// CellFigures: what some chosen cells come to: how many, their sum, mean, least and largest.

#include <cstdint>
#include <span>
#include <vector>

#include "core/base/cancel.h"
#include "core/base/result.h"
#include "core/columns/value.h"
#include "core/rows/snapshot.h"

namespace jollyrow {

/// The cells where these records and fields cross.
struct CellBlock {
    std::vector<SourceRow> rows;
    std::vector<FieldIndex> fields;
};

struct CellFigures {
    std::int64_t cells = 0;    ///< each counted once
    std::int64_t filled = 0;   ///< with a value, or with what fits no type
    std::int64_t numbers = 0;  ///< that the sum is of
    Value sum;                 ///< exact where all numbers are; Empty: there are none, or it is past 38 digits
    Value mean;
    Value least, largest;  ///< of numbers, or of days or moments when all are of one type; else Empty
    bool operator==(const CellFigures&) const = default;
};

/// O(cells); with several blocks O(cells) of memory, too, for cells that are in more than one.
Result<CellFigures> figuresOfCells(const Snapshot& snapshot, std::span<const CellBlock> blocks, const Cancel& cancel);

}  // namespace jollyrow
