// SPDX-License-Identifier: MIT
#pragma once
// What a sort key says, shared by the design file, sort lists and the Rowline.

#include <string>

#include "core/base/indexes.h"

namespace jollyrow {

enum class Direction { Ascending, Descending };
/// Where records with an empty value stand, whatever the direction.
enum class Empties { First, Last };

/// One key, its field resolved.
struct SortKey {
    FieldIndex field{};
    Direction direction = Direction::Ascending;
    Empties empties = Empties::Last;
    bool operator==(const SortKey&) const = default;
};

}  // namespace jollyrow
