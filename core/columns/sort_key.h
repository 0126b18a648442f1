// SPDX-License-Identifier: MIT
#pragma once
// What a sort key says, shared by the design file, sort lists and the Rowline.

#include <compare>
#include <string>

#include "core/base/indexes.h"

namespace jollyrow {

enum class Direction { Ascending, Descending };
/// Where records with an empty value stand, whatever the direction.
enum class Empties { First, Last };

/// What makes two texts different (the levels of UTS #10).
enum class TextStrength {
    Exact,          ///< letters, then accents, then case
    IgnoreCase,     ///< "wren" and "Wren" are equal
    IgnoreAccents,  ///< "ete" and "été" are equal, "Ete" is not
    Letters,        ///< neither counts
};

/// How texts are ordered.
struct TextOrder {
    bool natural = false;  ///< digits by the number they make: "B2" before "B10"
    TextStrength strength = TextStrength::Exact;
    std::string locale = {};  ///< BCP 47; "" = the Unicode root collation
    bool operator==(const TextOrder&) const = default;
    auto operator<=>(const TextOrder&) const = default;
};

}  // namespace jollyrow
