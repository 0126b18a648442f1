// SPDX-License-Identifier: MIT
#include "grid/layout/shown_rows.h"

namespace jollyrow {

std::optional<std::int64_t> ShownRows::lineOfGroup(std::uint64_t path) const {
    if (!groups()) return std::nullopt;
    const auto& nodes = groups()->tree().nodes;
    for (std::uint32_t n = 0; n < nodes.size(); ++n)
        if (nodes[n].path == path) return groups()->lineOf(n);
    return std::nullopt;
}

void ShownRows::forEachRow(std::int64_t line, const std::function<void(SourceRow)>& take) const {
    const Line where = at(line);
    if (where.kind == LineKind::Record) return take(where.row);
    if (where.kind != LineKind::Group || !groups()) return;
    const GroupNode& node = groups()->tree().nodes[where.group];
    const RowOrder& order = *groups()->tree().order;
    for (std::int64_t n = node.first; n < node.first + node.count; ++n)
        take(static_cast<SourceRow>(order[static_cast<std::size_t>(n)]));
}

}  // namespace jollyrow
