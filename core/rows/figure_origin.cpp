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

std::shared_ptr<const RecordSet> setOf(const std::vector<std::uint8_t>& marks) {
    auto set = std::make_shared<RecordSet>();
    set->rows = marks.size();
    set->bits.assign((marks.size() + 63) / 64, 0);
    for (std::size_t row = 0; row < marks.size(); ++row) {
        if (marks[row] == 0) continue;
        set->bits[row >> 6] |= std::uint64_t{1} << (row & 63);
        ++set->count;
    }
    return set;
}

}  // namespace

Result<FigureOrigin> originOf(const SummaryRule& rule, const GroupTree& tree, std::uint32_t node,
                              const EvaluationInput& records, const Cancel& cancel) {
    const bool all = node >= tree.nodes.size();
    const std::int64_t first = all ? 0 : tree.nodes[node].first;
    const std::int64_t count = all ? static_cast<std::int64_t>(tree.order->size()) : tree.nodes[node].count;
    return originOf(rule, RowOrder(tree.order->begin() + first, tree.order->begin() + first + count), records, cancel);
}

Result<FigureOrigin> originOf(const SummaryRule& rule, RowOrder given, const EvaluationInput& records,
                              const Cancel& cancel) {
    FigureOrigin origin;
    origin.records = static_cast<std::int64_t>(given.size());
    // First and last values depend on their order. Those to be deleted are left out.
    auto order = std::make_shared<RowOrder>(std::move(given));
    if (records.edits && records.edits->hasFates())
        std::erase_if(*order, [&](std::uint32_t row) {
            const RecordFate* fate = records.edits->fate(static_cast<SourceRow>(row));
            return fate && fate->isLeaving();
        });
    origin.leaving = origin.records - static_cast<std::int64_t>(order->size());
    origin.records -= origin.leaving;
    std::vector<std::uint8_t> inside(records.table->rows, 0);
    for (const std::uint32_t row : *order) inside[row] = 1;
    std::vector<std::uint8_t> counted(records.table->rows, 0);
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
            for (std::size_t row = 0; row < counted.size(); ++row) counted[row] |= passes[row];
            continue;
        }
        auto done = forBatches(term.argument, records, 1, cancel,
                               [&](std::size_t, std::size_t begin, std::size_t count, const Vector& v) {
                                   for (std::size_t i = 0; i < count; ++i)
                                       if (passes[begin + i]) {
                                           if (v.state(i) == CellState::Filled) counted[begin + i] = 1;
                                           take(made, cellOf(v, i), static_cast<SourceRow>(begin + i));
                                       }
                               });
        if (!done) return done.error();
    }
    origin.made = setOf(counted);
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
