// SPDX-License-Identifier: MIT
#pragma once
// ExactFits: fits columns to heading and all of their values, a few a turn of the event loop, so that the window keeps
// its frames; then changes the design in one step.

#include <QTimer>

#include <functional>
#include <map>
#include <string>
#include <vector>

#include "grid/inside/grid_context.h"
#include "grid/layout/column_fits.h"

namespace jollyrow {

class ExactFits final {
  public:
    /// `input`: what is measured on, asked for at each turn.
    ExactFits(GridContext& context, ColumnFits& fits, std::function<FitInput()> input);
    /// Adds to what is under way.
    void begin(const std::vector<std::string>& fields);
    void beginAll();

  private:
    void turn();
    void finish();

    GridContext& context_;
    ColumnFits& fits_;
    std::function<FitInput()> input_;
    std::vector<std::string> rest_;
    std::map<std::string, int> widths_;  ///< by field, as far as measured
    QTimer timer_;
};

}  // namespace jollyrow
