// SPDX-License-Identifier: MIT
#pragma once
// Looks: named sets of colours for a grid, in light and in dark. Four come ready; a builder's own says only what it
// changes of one of them. Kept in a design, or in a file of its own that several applications share. Included by
// design.h.

#include <array>
#include <map>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/result.h"
#include "core/design/finding.h"

namespace jollyrow {

/// Yard, the usual one; slate, cool and grey; chart, after a sea chart; contrast, black and white with strong lines.
inline constexpr std::array<std::string_view, 4> kReadyLooks = {"yard", "slate", "chart", "contrast"};
bool isReadyLook(std::string_view name);

/// What a look can colour. Texts are made lighter or darker where they would not be legible.
inline constexpr std::array<std::string_view, 27> kLookColours = {
    "paper", "stripe",   "page",       "panel",   "panel2",    "group2",    "ink",      "ink2",     "ink3",
    "hair",  "hair2",    "strongEdge", "popEdge", "teal",      "tealText",  "tealPale", "onTeal",   "hoverRow",
    "buoy",  "buoyText", "buoyPale",   "brass",   "brassText", "brassPale", "blue",     "bluePale", "tealPaleEdge"};

struct LookDesign {
    std::string name;
    std::string base = "yard";                      ///< the ready look for what is not said here
    std::map<std::string, std::string> light = {};  ///< by name (kLookColours) "#rrggbb"
    std::map<std::string, std::string> dark = {};   ///< the same for dark
    std::string unknown = {};                       ///< keys of the file that this version does not know; kept
    bool operator==(const LookDesign&) const = default;
};

struct ReadLook {
    LookDesign look;
    std::vector<Finding> findings;
};
/// A look file (docs/formats/look.md). Colours that are none are left out and said. Fails when it is no look at all.
Result<ReadLook> lookFromJson(std::string_view text);
std::string toJson(const LookDesign& look);
/// Reads at most a megabyte.
Result<ReadLook> readLookFile(const std::string& path);
Result<void> writeLookFile(const std::string& path, const LookDesign& look);

}  // namespace jollyrow
