// SPDX-License-Identifier: MIT
#pragma once
// FigureCard: how a figure of a group or of the totals was made: how many records it counts, which ones were left out
// and why, the smallest and the largest; each leads to its record, and the records that made it can be shown alone.
//
//   connect(&grid, &Grid::figureClicked, [&](int summary, quint32 node, const QRect& where) {
//       FigureCard::popUp(grid, summary, node, where);
//   });
//
// Confined to the window's thread. Requires: the grid outlives it.

#include <QFrame>

#include <memory>

#include "core/columns/sort_key.h"
#include "core/rows/figure_origin.h"
#include "core/rows/snapshot.h"

class QVBoxLayout;

namespace jollyrow {

class Grid;

class FigureCard final : public QFrame {
    Q_OBJECT
  public:
    /// `summary`, `node` as Grid::figureClicked gives them.
    FigureCard(Grid& grid, int summary, quint32 node, QWidget* parent);
    /// In a popup of its own at the figure, which is in the viewport.
    static void popUp(Grid& grid, int summary, quint32 node, const QRect& where);

  Q_SIGNALS:
    /// What it says is there; it may need more room.
    void filled();
    /// The person goes to a record, or to all of them: the card has done.
    void left();

  private:
    void fill(const FigureOrigin& origin);
    void addTerm(QVBoxLayout& list, const TermOrigin& term, std::size_t index, std::int64_t records);
    void addShow(QVBoxLayout& list, const FigureOrigin& origin);
    void jumpTo(SourceRow row);
    QString nameOf(SourceRow row) const;

    Grid& grid_;
    std::size_t summary_;
    quint32 node_;
    QWidget* facts_ = nullptr;
    std::shared_ptr<const Snapshot> snapshot_;
};

}  // namespace jollyrow
