// SPDX-License-Identifier: MIT
#include "core/columns/extremes.h"

namespace jollyrow {
namespace {

template <class ValueAt>
void findSmallestAndLargest(const Column& column, Extremes& found, const ValueAt& valueAt) {
    for (std::size_t i = 0; i < column.size(); ++i) {
        const auto row = static_cast<SourceRow>(i);
        if (column.isEmpty(row)) continue;
        if (!found.smallest || valueAt(row) < valueAt(*found.smallest)) found.smallest = row;
        if (!found.largest || valueAt(row) > valueAt(*found.largest)) found.largest = row;
    }
}

}  // namespace

Extremes extremesOf(const Column& column) {
    Extremes found;
    for (std::size_t i = 0; column.emptyCount() != 0 && i < column.size() && !found.empty; ++i)
        if (column.isEmpty(static_cast<SourceRow>(i)) && !column.misfit(static_cast<SourceRow>(i)))
            found.empty = static_cast<SourceRow>(i);
    if (column.isWide()) {
        findSmallestAndLargest(column, found, [&](SourceRow row) { return column.decimal(row).mantissa; });
    } else if (isIntegral(column.type())) {
        findSmallestAndLargest(column, found, [&](SourceRow row) { return column.integer(row); });
    } else if (column.type() == Type::Real) {
        findSmallestAndLargest(column, found, [&](SourceRow row) { return column.real(row); });
    } else if (column.type() == Type::Text) {
        std::size_t most = 0;
        for (std::size_t i = 0; i < column.size(); ++i) {
            const auto row = static_cast<SourceRow>(i);
            if (column.isEmpty(row) || column.text(row).size() <= most) continue;
            most = column.text(row).size();
            found.longest = row;
        }
    }
    return found;
}

}  // namespace jollyrow
