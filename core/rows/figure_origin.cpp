// SPDX-License-Identifier: MIT
// Covered by tests/rows/group_test.cpp.
#include "core/rows/figure_origin.h"

#include "core/rows/group_stage.h"
#include "core/rules/conversion.h"

namespace jollyrow {
namespace {

void take(TermOrigin& origin, const EvaluatedCell& cell, SourceRow row) {
    if (cell.state == CellState::Misfit) {
        if (origin.misfits++ == 0) origin.firstMisfit = row;
        return;
    }
    if (isError(cell.state)) {
        if (origin.failed++ == 0) origin.firstFailed = row;
        return;
    }
    if (cell.state == CellState::Empty) {
        if (origin.empties++ == 0) origin.firstEmpty = row;
        return;
    }
    ++origin.counted;
    if (!origin.smallest || compareValues(cell.value, origin.smallest->value) < 0)
        origin.smallest = TermOrigin::At{cell.value, row};
    if (!origin.largest || compareValues(cell.value, origin.largest->value) > 0)
        origin.largest = TermOrigin::At{cell.value, row};
}

}  // namespace

Result<FigureOrigin> originOf(const SummaryRule& rule, const GroupTree& tree, std::uint32_t node,
                              const EvaluationInput& records, const Cancel& cancel) {
    FigureOrigin origin;
    const bool all = node >= tree.nodes.size();
    const std::int64_t first = all ? 0 : tree.nodes[node].first;
    origin.records = all ? static_cast<std::int64_t>(tree.order->size()) : tree.nodes[node].count;
    // The records in the order they are in, which first and last values depend on; but for those to be deleted.
    auto order = std::make_shared<RowOrder>(tree.order->begin() + first, tree.order->begin() + first + origin.records);
    if (records.edits && records.edits->hasFates())
        std::erase_if(*order, [&](std::uint32_t row) {
            const RecordFate* fate = records.edits->fate(static_cast<SourceRow>(row));
            return fate && fate->isLeaving();
        });
    origin.leaving = origin.records - static_cast<std::int64_t>(order->size());
    origin.records -= origin.leaving;
    std::vector<std::uint8_t> inside(records.table->rows, 0);
    for (const std::uint32_t row : *order) inside[row] = 1;
    for (const SummaryTerm& term : rule.terms) {
        TermOrigin& made = origin.terms.emplace_back();
        std::vector<std::uint8_t> passes = inside;
        if (term.filter) {
            auto done = forBatches(term.filter, records, 1, cancel,
                                   [&](std::size_t, std::size_t begin, std::size_t count, const Vector& v) {
                                       for (std::size_t i = 0; i < count; ++i) {
                                           if (!inside[begin + i]) continue;
                                           const bool pass =
                                               v.state(i) == CellState::Filled && v.booleans[v.at(i)] != 0;
                                           passes[begin + i] = pass ? 1 : 0;
                                           made.filteredOut += pass ? 0 : 1;
                                       }
                                   });
            if (!done) return done.error();
        }
        if (!term.argument) {
            made.counted = origin.records - made.filteredOut;
            continue;
        }
        auto done = forBatches(term.argument, records, 1, cancel,
                               [&](std::size_t, std::size_t begin, std::size_t count, const Vector& v) {
                                   for (std::size_t i = 0; i < count; ++i)
                                       if (passes[begin + i])
                                           take(made, cellOf(v, i), static_cast<SourceRow>(begin + i));
                               });
        if (!done) return done.error();
    }
    std::vector<SummarySpec> specs{{rule}};
    for (const SummaryTerm& term : rule.terms) {
        SummaryRule one;
        one.text = term.text;
        one.terms = {term};
        one.type = term.type;
        specs.push_back({one});
    }
    const auto figures = groupRows({}, specs, order, records, cancel);
    if (!figures) return figures.error();
    origin.figure = (*figures)->total(0);
    for (std::size_t i = 1; i < specs.size(); ++i) origin.aggregates.push_back((*figures)->total(i));
    return origin;
}

}  // namespace jollyrow
