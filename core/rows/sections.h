// SPDX-License-Identifier: MIT
#pragma once
// Sections: some records head those behind them in the bound order, up to the next one that does. Records before the
// first head belong to none. Pure.

#include <memory>
#include <span>

#include "core/rows/record_set.h"
#include "core/rows/row_order.h"

namespace jollyrow {

/// Records of any of the sets. Requires: all of `rows` records or fewer. O(rows / 64).
std::shared_ptr<const RecordSet> unionOf(std::span<const std::shared_ptr<const RecordSet>> sets, std::size_t rows);
/// The records of a set and the heads of all sections that have one of them. O(rows / 64 + heads).
std::shared_ptr<const RecordSet> withHeads(const RecordSet& shown, const RecordSet& heads);
/// The order within each section, which stands behind its head, sections in bound order. O(rows).
std::shared_ptr<const RowOrder> bySection(const RowOrder& order, const RecordSet& heads);

}  // namespace jollyrow
