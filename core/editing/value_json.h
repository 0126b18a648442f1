// SPDX-License-Identifier: MIT
#pragma once
// Values of any type as JSON and back, exactly: what draft files hold. Inside of the editing room.

#include <nlohmann/json.hpp>
#include <optional>

#include "core/columns/value.h"

namespace jollyrow {

/// A pair of a letter for the type and the value. O(length).
nlohmann::json jsonOf(const Value& value);
/// nullopt for what is none.
std::optional<Value> valueFrom(const nlohmann::json& json);

}  // namespace jollyrow
