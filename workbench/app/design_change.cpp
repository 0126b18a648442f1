// SPDX-License-Identifier: MIT
#include "workbench/app/design_change.h"

namespace jollyrow {

DesignChange groupingOf(const Design& from) {
    return [groups = from.groups, summaries = from.summaries, shown = from.grid](Design& d) {
        d.groups = groups;
        d.summaries = summaries;
        d.grid.groupIndent = shown.groupIndent;
        d.grid.stickyGroups = shown.stickyGroups;
        d.grid.totalFiltered = shown.totalFiltered;
        d.grid.totalAll = shown.totalAll;
        d.grid.totalSelected = shown.totalSelected;
        d.grid.totalHeight = shown.totalHeight;
        d.grid.totalColour = shown.totalColour;
        d.grid.totalTextColour = shown.totalTextColour;
        d.grid.totalWeight = shown.totalWeight;
    };
}

}  // namespace jollyrow
