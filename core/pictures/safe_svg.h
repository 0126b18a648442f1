// SPDX-License-Identifier: MIT
#pragma once
// safeSvg: what of an SVG may be drawn. The drawing library opens what a picture refers to and draws whatever it is
// told; a picture of a database is written by strangers. So only elements that draw are let through, without scripts,
// animation, references out of the file or embedded pages; entities are not expanded, and what would take for ever to
// draw (copies of copies, dashes by the billion) is refused or drawn plain.

#include <string>
#include <string_view>

#include "core/base/result.h"

namespace jollyrow {

inline constexpr std::size_t kMostSvgBytes = 4'000'000;

/// The same picture as a new document; fails with words when it is none, is damaged, or asks for too much. Dashed lines
/// come out solid. O(bytes). Parsed by expat.
Result<std::string> safeSvg(std::string_view bytes);

}  // namespace jollyrow
