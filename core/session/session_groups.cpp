// SPDX-License-Identifier: MIT
// Covered by tests/session/session_test.cpp.
#include "core/session/session_groups.h"

#include <utility>

namespace jollyrow {

void SessionGroups::show(OpenGroups open) {
    if (open == bound_.state.open) return;
    bound_.state.open = std::move(open);
    if (!bound_.snapshot || !bound_.snapshot->grouped) return;
    auto next = std::make_shared<Snapshot>(*bound_.snapshot);
    next->grouped = std::make_shared<const GroupedLines>(*bound_.snapshot->grouped, bound_.state.open);
    view_.show(std::move(next));
}

void SessionGroups::setOpen(std::uint32_t node, bool open) {
    if (!bound_.snapshot->grouped || node >= bound_.snapshot->grouped->tree().nodes.size()) return;
    OpenGroups next = bound_.state.open;
    next.setOpen(bound_.snapshot->grouped->tree().nodes[node], open);
    show(std::move(next));
}

void SessionGroups::setLevelOpen(int level, bool open) {
    if (level < 0 || !bound_.snapshot->grouped || level >= bound_.snapshot->grouped->tree().levels()) return;
    const GroupTree& tree = bound_.snapshot->grouped->tree();
    OpenGroups next = bound_.state.open;
    const auto at = static_cast<std::size_t>(level);
    for (std::uint32_t n = tree.levelBegin[at]; !next.others.empty() && n < tree.levelBegin[at + 1]; ++n)
        next.others.erase(tree.nodes[n].path);
    if (next.levels.size() <= at) next.levels.resize(at + 1, true);
    next.levels[at] = open;
    show(std::move(next));
}

void SessionGroups::setAllOpen(bool open) {
    OpenGroups next;
    next.levels.assign(bound_.plan->grouping->groups.size(), open);
    show(std::move(next));
}

bool SessionGroups::openAround(SourceRow row) {
    const auto place = bound_.snapshot->placeOf(row);
    if (!place) return false;
    if (!bound_.snapshot->grouped) return true;
    const GroupTree& tree = bound_.snapshot->grouped->tree();
    OpenGroups next = bound_.state.open;
    for (int level = 0; level < tree.levels(); ++level) next.setOpen(tree.nodes[tree.nodeAt(level, *place)], true);
    show(std::move(next));
    return true;
}

}  // namespace jollyrow
