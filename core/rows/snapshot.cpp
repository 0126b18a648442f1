// SPDX-License-Identifier: MIT
#include "core/rows/snapshot.h"

#include <algorithm>

namespace jollyrow {

std::string_view name(Stage stage) {
    switch (stage) {
        case Stage::Source: return "Source";
        case Stage::Filter: return "Filter";
        case Stage::Sort: return "Sort";
        case Stage::Group: return "Group";
        case Stage::Summaries: return "Summaries";
    }
    return {};
}

std::optional<std::int64_t> Snapshot::placeOf(SourceRow row) const {
    if (!order) return raw(row) < table->rows ? std::optional<std::int64_t>(raw(row)) : std::nullopt;
    const auto found = std::find(order->begin(), order->end(), raw(row));
    return found == order->end() ? std::nullopt : std::optional<std::int64_t>(found - order->begin());
}

std::optional<ViewLine> Snapshot::lineOf(SourceRow row) const {
    const auto place = placeOf(row);
    const auto line = place && grouped ? grouped->lineOfPlace(*place) : place;
    return line ? std::optional(static_cast<ViewLine>(*line)) : std::nullopt;
}

Value Snapshot::value(SourceRow row, FieldIndex field) const {
    if (const CellEdit* edit = edits ? edits->find(row, field) : nullptr) return edit->value;
    const Column* column = table->column(field);
    return column ? column->value(row) : Value(Empty{});
}

const StageReport& Snapshot::report(Stage stage) const {
    switch (stage) {
        case Stage::Source: return source;
        case Stage::Filter: return filter;
        case Stage::Sort: return sort;
        case Stage::Group: return group;
        case Stage::Summaries: return summaries;
    }
    return source;
}

}  // namespace jollyrow
