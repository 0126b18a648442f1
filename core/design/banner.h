// SPDX-License-Identifier: MIT
#pragma once
// Banner rows: records for which a condition holds, drawn as one heading across all columns. Plain values, kept in the
// design. Included by design.h.

#include <string>

#include "core/design/face.h"

namespace jollyrow {

struct BannerDesign {
    static constexpr std::size_t kMost = 8;
    std::string where;         ///< a condition; of several banners the first that holds
    std::string caption = {};  ///< ICU message pattern; "" = what the first column of texts shows
    /// It heads the records behind it in the bound order, up to the next one that does: they are sorted beneath it, and
    /// it stays where the filter leaves one of them.
    bool heads = false;
    std::string ink = {};         ///< "#rrggbb" or a name of the theme (isInk); "" = the theme's
    std::string background = {};  ///< the same; names of the theme are pale there
    LineWeight weight = LineWeight::Theme;
    Alignment alignment = Alignment::Left;
    std::string unknown = {};  ///< keys of the file that this version does not know; kept
    bool operator==(const BannerDesign&) const = default;
};

}  // namespace jollyrow
