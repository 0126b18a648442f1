// SPDX-License-Identifier: MIT
#pragma once
// The "faces", "styles" and "banners" of a design file. Inside of the design room.

#include <nlohmann/json.hpp>
#include <vector>

#include "core/design/design.h"
#include "core/design/object_reader.h"

namespace jollyrow {

nlohmann::ordered_json jsonOf(const FaceDesign& face);
nlohmann::ordered_json jsonOf(const StyleDesign& style);
nlohmann::ordered_json jsonOf(const BannerDesign& banner);
/// One without a condition, and one too many, is left out and said.
void readBanners(ObjectReader& design, std::vector<BannerDesign>& banners, std::vector<Finding>& findings);
void readStyles(ObjectReader& design, std::vector<StyleDesign>& styles, std::vector<Finding>& findings);
/// A face without a name, of a name met before, of too many parts or nested too deep is left out and said.
void readFaces(ObjectReader& design, std::vector<FaceDesign>& faces, std::vector<Finding>& findings);

}  // namespace jollyrow
