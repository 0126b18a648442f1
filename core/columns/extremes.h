// SPDX-License-Identifier: MIT
#pragma once
// Extremes: the records of a column that try a format hardest, for a live sample: smallest, largest, longest, empty.

#include <optional>

#include "core/columns/column.h"

namespace jollyrow {

struct Extremes {
    std::optional<SourceRow> smallest, largest;  ///< of numbers, dates and times
    std::optional<SourceRow> longest;            ///< of texts, by bytes
    std::optional<SourceRow> empty;
};

/// The first record of each kind. O(rows), about a millisecond for a million numbers.
Extremes extremesOf(const Column& column);

}  // namespace jollyrow
