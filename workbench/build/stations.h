// SPDX-License-Identifier: MIT
#pragma once
// What the stations of the Rowline say of a grid: the design in words, and what each stage let through.

#include <QString>

#include <vector>

#include "grid/api/grid.h"
#include "workbench/rowline/rowline_bar.h"

namespace jollyrow {

/// Source, filter, sort, group, summaries. Requires: the grid has a snapshot.
std::vector<Station> stationsOf(Grid& grid, const Design& design, const QString& databasePath);

}  // namespace jollyrow
