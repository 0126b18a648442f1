// SPDX-License-Identifier: MIT
#pragma once
// FigurePopover: how one figure came to be: how many records, which were left out, the extremes and where they stand.

#include <memory>

#include "core/rows/figure_origin.h"
#include "core/rows/snapshot.h"
#include "workbench/popovers/popover.h"

namespace jollyrow {

class Grid;

class FigurePopover final : public Popover {
    Q_OBJECT
  public:
    /// `node` as Grid::figureClicked gives it.
    FigurePopover(QWidget* window, Grid& grid, int summary, quint32 node);
};

}  // namespace jollyrow
