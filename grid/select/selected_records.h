// SPDX-License-Identifier: MIT
#pragma once
// SelectedRecords: tells the application which records have come to the selection and which have left it.

#include "grid/inside/grid_context.h"
#include "grid/select/cursor.h"

namespace jollyrow {

class SelectedRecords final {
  public:
    SelectedRecords(GridContext& context, const Cursor& cursor) : context_(context), cursor_(cursor) {}
    /// The selection may be another. O(records of the table / 64 + changes), and little while nobody listens.
    void tell(bool isHeard);
    /// Rows have other numbers: what is selected now was selected before.
    void forget() { told_ = cursor_.selection().rows(); }

  private:
    GridContext& context_;
    const Cursor& cursor_;
    RowSet told_;
};

}  // namespace jollyrow
