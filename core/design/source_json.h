// SPDX-License-Identifier: MIT
#pragma once
// The "source" of a design file: what it is bound to and how its values are read. Inside of the design room.

#include <nlohmann/json.hpp>
#include <vector>

#include "core/design/design.h"
#include "core/design/finding.h"

namespace jollyrow {

/// Without the keys that this version does not know.
nlohmann::ordered_json jsonOf(const SourceDesign& source);
void readSource(const nlohmann::ordered_json& json, SourceDesign& source, std::vector<Finding>& findings);

/// Adds the keys of a JSON text that are not there yet; "" adds none.
void addUnknown(nlohmann::ordered_json& object, const std::string& unknown);

}  // namespace jollyrow
