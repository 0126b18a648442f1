// SPDX-License-Identifier: MIT
#pragma once
// Styles: what cells or whole records look like where a condition holds, or by where a value lies between the least and
// the greatest. Plain values, kept in the design, in the order in which they apply. Included by design.h.

#include <string>
#include <vector>

#include "core/design/face.h"

namespace jollyrow {

/// What lines a style is for.
enum class StyledLines {
    Records,
    Groups,  ///< the lines of groups and their footers; the condition is of aggregates, as SQL's HAVING has it
    Totals,  ///< at the foot; the same
};

struct StyleIcon {
    MarkShape shape = MarkShape::Disc;
    std::string colour = {};   ///< "#rrggbb" or a name of the theme; "" = that of the text
    std::string unknown = {};  ///< keys of the file that this version does not know; kept
    bool operator==(const StyleIcon&) const = default;
};

struct StyleDesign {
    std::string name;  ///< what menus and findings call it
    StyledLines lines = StyledLines::Records;
    std::string where = {};                 ///< a condition; `value` is the cell's; "" = always
    std::vector<std::string> columns = {};  ///< fields of the cells it is for; none = the whole record or line
    std::string ink = {};                   ///< of texts: "#rrggbb" or a name of the theme (isInk); "" = as before
    std::string background = {};            ///< the same; names of the theme are pale there
    LineWeight weight = LineWeight::Theme;
    bool italic = false;
    bool strike = false;
    std::string lowest = {};   ///< with `highest`: backgrounds from the least value of a column to its greatest, of the
    std::string middle = {};   ///< records shown (or of the groups of a level), and mixed between, by way of the middle
    std::string highest = {};  ///< where one is given; only with `columns`
    /// Before the value: one, or several for parts of one size from the least value to the greatest; only with
    /// `columns`.
    std::vector<StyleIcon> icons = {};
    bool last = false;  ///< where it holds, no later one applies
    bool on = true;
    std::string unknown = {};  ///< keys of the file that this version does not know; kept
    bool operator==(const StyleDesign&) const = default;

    static constexpr std::size_t kMostIcons = 9;
    /// Depends on where a value lies between the least and the greatest.
    bool isByPlace() const { return !lowest.empty() || icons.size() > 1; }
};

}  // namespace jollyrow
