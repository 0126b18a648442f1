// SPDX-License-Identifier: MIT
#pragma once
// The "looks" of a design file. Inside of the design room.

#include <nlohmann/json.hpp>
#include <vector>

#include "core/design/look.h"
#include "core/design/object_reader.h"

namespace jollyrow {

nlohmann::ordered_json jsonOf(const LookDesign& look);
LookDesign lookFrom(const nlohmann::ordered_json& json, const std::string& where, std::vector<Finding>& findings);
/// One without a name, or of a name met before, is left out and said.
void readLooks(ObjectReader& design, std::vector<LookDesign>& looks, std::vector<Finding>& findings);

}  // namespace jollyrow
