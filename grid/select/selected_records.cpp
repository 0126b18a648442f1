// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_grid_use.cpp.
#include "grid/select/selected_records.h"

#include <utility>

#include "grid/api/grid.h"

namespace jollyrow {

void SelectedRecords::tell(bool isHeard) {
    const RowSet before = std::exchange(told_, cursor_.selection().rows());
    if (!isHeard) return;
    const auto recordsOf = [this](const RowSet& some, const RowSet& others) {
        std::vector<Record> records;
        some.forEach([&](SourceRow row) {
            if (!others.contains(row) && records.size() < GridSelection::kMostTold)
                records.push_back(context_.record(row));
        });
        return records;
    };
    const std::vector<Record> came = recordsOf(told_, before), went = recordsOf(before, told_);
    if (!came.empty() || !went.empty()) Q_EMIT context_.grid().selectedRecordsChanged(came, went);
}

}  // namespace jollyrow
