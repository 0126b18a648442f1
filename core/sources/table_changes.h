// SPDX-License-Identifier: MIT
#pragma once
// What has become of the records of a table, told from a later reading of it.

#include <memory>
#include <optional>
#include <vector>

#include "core/base/cancel.h"
#include "core/columns/key_index.h"
#include "core/sources/source.h"

namespace jollyrow {

/// Changed records with their changed fields, new ones with all, and those that are gone, told apart by their keys; in
/// no particular order. nullopt when the tables have other fields, a key names no single record, there are more than
/// `most`, or `cancel` is requested: then the later table takes the other's place as a whole. Fields that either has
/// not read are left out. O(rows * fields).
std::optional<std::vector<ElsewhereChange>> changesBetween(const KeyIndex& before, const KeyIndex& after,
                                                           std::size_t most, const Cancel& cancel);

}  // namespace jollyrow
