// SPDX-License-Identifier: MIT
#pragma once
// Styles: what cells or whole records look like where a condition holds, or by where a value lies between the least and
// the greatest. Plain values, kept in the design, in the order in which they apply. Included by design.h.

#include <string>
#include <vector>

#include "core/design/face.h"

namespace jollyrow {

struct StyleDesign {
    std::string name;                       ///< what menus and findings call it
    std::string where = {};                 ///< a condition; `value` is the cell's; "" = always
    std::vector<std::string> columns = {};  ///< fields of the cells it is for; none = the whole record
    std::string ink = {};                   ///< of texts: "#rrggbb" or a name of the theme (isInk); "" = as before
    std::string background = {};            ///< the same; names of the theme are pale there
    LineWeight weight = LineWeight::Theme;
    bool strike = false;
    std::string lowest = {};   ///< with `highest`: backgrounds from the least value of a column to its greatest, of the
    std::string highest = {};  ///< records shown, and mixed between; only with `columns`
    bool last = false;         ///< where it holds, no later one applies
    bool on = true;
    std::string unknown = {};  ///< keys of the file that this version does not know; kept
    bool operator==(const StyleDesign&) const = default;
};

}  // namespace jollyrow
