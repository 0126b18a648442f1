// SPDX-License-Identifier: MIT
#pragma once
// Totals: the rows of figures at the foot of the grid: of the selected records, of those shown, of all.

#include <vector>

#include "grid/inside/grid_context.h"
#include "grid/paint/painters.h"
#include "grid/select/cursor.h"

namespace jollyrow {

class Totals final {
  public:
    Totals(GridContext& context, const ShownRows& rows, const Cursor& cursor, const Painters& painters)
        : context_(context), rows_(rows), cursor_(cursor), painters_(painters) {}

    /// Pixels that they take, the axis of bars above them included; 0 when there are none.
    int height() const;
    /// Where the axis begins in a viewport of this height; nullopt without one.
    std::optional<int> axisTop(int viewportHeight) const;
    /// Where they stand in a viewport of this height.
    std::vector<TotalRow> rows(int viewportHeight) const;
    /// By summary, of the selected records, as far as they have been computed.
    const std::vector<EvaluatedCell>& ofSelected() const { return ofSelected_; }
    /// Asks for the figures of the selected records when they are shown.
    void sumUpSelection();

  private:
    int axisHeight() const;
    std::vector<TotalScope> scopes() const;
    int rowHeight() const;
    QString captionOf(TotalScope scope) const;

    GridContext& context_;
    const ShownRows& rows_;
    const Cursor& cursor_;
    const Painters& painters_;
    std::vector<EvaluatedCell> ofSelected_;
};

}  // namespace jollyrow
