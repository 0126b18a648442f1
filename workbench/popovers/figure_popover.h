// SPDX-License-Identifier: MIT
#pragma once
// FigurePopover: how one figure came to be: how many records, which were left out, the extremes and where they stand.

#include <memory>

#include "core/rows/figure_origin.h"
#include "core/rows/snapshot.h"
#include "workbench/popovers/popover.h"

class QGridLayout;
class QVBoxLayout;

namespace jollyrow {

class Grid;

class FigurePopover final : public Popover {
    Q_OBJECT
  public:
    /// `node` as Grid::figureClicked gives it.
    FigurePopover(QWidget* window, Grid& grid, int summary, quint32 node);

  private:
    void show(const FigureOrigin& origin);
    void addTerm(QVBoxLayout& list, const TermOrigin& term, std::size_t index, std::int64_t records);
    void jumpTo(SourceRow row);
    QString nameOf(SourceRow row) const;

    Grid& grid_;
    std::size_t summary_;
    quint32 node_;
    QWidget* facts_ = nullptr;
    std::shared_ptr<const Snapshot> snapshot_;
};

}  // namespace jollyrow
