// SPDX-License-Identifier: MIT
#pragma once
// Room in a table for records that are inserted where it is shown: rows that are all empty and no records until an edit
// says so (RecordChange::Insert). With room, inserting and deleting change no column and renumber nothing.

#include <algorithm>
#include <cstdint>
#include <memory>
#include <vector>

#include "core/columns/edits.h"
#include "core/columns/table.h"

namespace jollyrow {

/// How many records can be inserted before a table must be copied for more: fewer the more columns there are, so that
/// the spare rows of a table hold about a million values at most.
constexpr std::size_t roomFor(std::size_t columns) {
    constexpr std::size_t kMostRows = 16'384, kLeastRows = 64, kValues = 1'000'000;
    return columns == 0 ? kMostRows : std::clamp(kValues / columns, kLeastRows, kMostRows);
}

/// The first values of a column, and empties behind them, in a column of their own. O(rows).
std::shared_ptr<const Column> copied(const Column& column, std::size_t rows, std::size_t empties = 0);

/// The same table with at least `more` spare rows: the one that was made while loading, else a copy. O(1) or O(values).
std::shared_ptr<const Table> withRoom(const Table& table, std::size_t more);
/// With as many as its number of columns allows.
inline std::shared_ptr<const Table> withRoom(const Table& table) {
    return withRoom(table, roomFor(table.schema.fields.size()));
}

/// Rows that are no records now: spare ones that nobody inserted, and those whose deletion was saved. Rising.
/// `edits` may be null. O(spare rows + edits), and nothing but a look when there are none.
std::vector<std::uint32_t> absentRows(const Table& table, const Edits* edits);

/// A spare row that is free; nullopt when none is left. O(spare rows).
std::optional<SourceRow> freeRow(const Table& table, const Edits& edits);

}  // namespace jollyrow
