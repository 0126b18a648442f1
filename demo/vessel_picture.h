// SPDX-License-Identifier: MIT
#pragma once
// Small drawn pictures of made-up boats, as PNG bytes.

#include <string>

namespace jollyrow::demo {

inline constexpr int kVesselPictures = 60;
/// The n-th of kVesselPictures different ones; 96 x 72 pixels, one to two kilobytes. The same bytes every time.
std::string vesselPicture(int n);

}  // namespace jollyrow::demo
