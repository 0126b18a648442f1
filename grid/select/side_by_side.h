// SPDX-License-Identifier: MIT
#pragma once
// SideBySide: a card with chosen records as columns of a grid of their own, lines on which they differ tinted.

#include "core/design/summary_table.h"
#include "grid/records/floating_card.h"

namespace jollyrow {

class Grid;

class SideBySide final : public FloatingCard {
    Q_OBJECT
  public:
    /// `made`: what turnedRecords() has made. Requires: it has a line and a column.
    SideBySide(const SummaryTable& made, const Tokens& look, QWidget* parent);
    Grid& table() { return *table_; }

  private:
    Grid* table_;
};

}  // namespace jollyrow
