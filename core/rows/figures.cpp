// SPDX-License-Identifier: MIT
// Covered by tests/rows/group_test.cpp.
#include "core/rows/figures.h"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "core/rows/parallel.h"
#include "core/rules/conversion.h"

namespace jollyrow {
namespace {

std::optional<WideDecimal> exactOf(const RuleValue& value) {
    if (const auto* whole = std::get_if<std::int64_t>(&value)) return WideDecimal{*whole, 0};
    if (const auto* exact = std::get_if<WideDecimal>(&value)) return *exact;
    return std::nullopt;
}

EvaluatedCell exactCell(const std::optional<WideDecimal>& value) {
    return value ? EvaluatedCell{CellState::Filled, *value} : EvaluatedCell{CellState::TooLarge, Empty{}};
}
EvaluatedCell realCell(double value) {
    return std::isfinite(value) ? EvaluatedCell{CellState::Filled, value} : EvaluatedCell{CellState::TooLarge, Empty{}};
}

EvaluatedCell shareOf(const EvaluatedCell& part, const EvaluatedCell& whole) {
    if (isError(part.state)) return part;
    if (isError(whole.state)) return whole;
    if (part.state != CellState::Filled || whole.state != CellState::Filled) return {};
    const auto a = exactOf(part.value), b = exactOf(whole.value);
    if (a && b)
        return b->mantissa == 0 ? EvaluatedCell{CellState::DivisionByZero, Empty{}} : exactCell(divided(*a, *b));
    const auto *x = std::get_if<double>(&part.value), *y = std::get_if<double>(&whole.value);
    if (!x || !y) return {};
    return *y == 0 ? EvaluatedCell{CellState::DivisionByZero, Empty{}} : realCell(*x / *y);
}

EvaluatedCell sumOf(const EvaluatedCell& before, const EvaluatedCell& here) {
    if (isError(before.state) || here.state == CellState::Empty) return before;
    if (isError(here.state) || before.state == CellState::Empty) return here;
    const auto a = exactOf(before.value), b = exactOf(here.value);
    if (a && b) return exactCell(added(*a, *b));
    const auto *x = std::get_if<double>(&before.value), *y = std::get_if<double>(&here.value);
    return x && y ? realCell(*x + *y) : EvaluatedCell{};
}

}  // namespace

Result<std::vector<EvaluatedCell>> outerFigures(const SummaryRule& rule,
                                                const std::vector<std::vector<EvaluatedCell>>& aggregates,
                                                const EvaluationInput& records, const Cancel& cancel) {
    std::map<std::string, const std::vector<EvaluatedCell>*> given;
    for (std::size_t i = 0; i < aggregates.size(); ++i) given.emplace(aggregateName(i), &aggregates[i]);
    auto table = std::make_shared<Table>();
    table->rows = aggregates.front().size();
    EvaluationInput input;
    input.table = table;
    input.parameters = records.parameters;
    input.today = records.today;
    input.now = records.now;
    input.given = &given;
    std::vector<EvaluatedCell> cells(table->rows);
    auto done = forBatches(rule.outer, input, 1, cancel,
                           [&](std::size_t, std::size_t begin, std::size_t count, const Vector& v) {
                               for (std::size_t i = 0; i < count; ++i) cells[begin + i] = cellOf(v, i);
                           });
    if (!done) return done.error();
    return cells;
}

std::vector<EvaluatedCell> cellsOf(const Figures& figures, std::size_t slots) {
    constexpr std::size_t kParallelFiguresFrom = 20'000;
    std::vector<EvaluatedCell> cells(slots);
    const std::size_t threads = threadsFor(slots, kParallelFiguresFrom);
    inParallel(threads, [&](std::size_t t) {
        for (std::size_t slot = slots * t / threads; slot < slots * (t + 1) / threads; ++slot)
            cells[slot] = figures.at(slot);
    });
    return cells;
}

std::vector<EvaluatedCell> measured(const Figures& figures, SummaryMeasure measure, const GroupTree& tree) {
    std::vector<EvaluatedCell> cells = cellsOf(figures, tree.nodes.size() + 1);
    if (measure == SummaryMeasure::Itself) return cells;
    std::vector<EvaluatedCell> out(cells.size());
    const EvaluatedCell& all = cells.back();
    out.back() = measure == SummaryMeasure::RunningTotal ? all : shareOf(all, all);
    for (std::size_t n = 0; n < tree.nodes.size(); ++n) {
        const GroupNode& node = tree.nodes[n];
        if (measure == SummaryMeasure::RunningTotal) {
            const bool isFirst = node.level == 0 ? n == 0 : tree.nodes[node.parent].firstChild == n;
            out[n] = isFirst ? cells[n] : sumOf(out[n - 1], cells[n]);
        } else {
            const bool ofAll = measure == SummaryMeasure::ShareOfAll || node.level == 0;
            out[n] = shareOf(cells[n], ofAll ? all : cells[node.parent]);
        }
    }
    return out;
}

std::vector<std::uint32_t> ranksByFigures(const GroupTree& tree, const std::vector<GroupTerm>& levels,
                                          const std::vector<std::shared_ptr<const Figures>>& figures) {
    std::vector<std::uint32_t> ranks(tree.nodes.size());
    std::iota(ranks.begin(), ranks.end(), 0);
    for (std::size_t level = 0; level < levels.size(); ++level) {
        if (!levels[level].orderBy || *levels[level].orderBy >= figures.size()) continue;
        const std::vector<EvaluatedCell> cells = cellsOf(*figures[*levels[level].orderBy], tree.nodes.size() + 1);
        const bool down = levels[level].key.direction == Direction::Descending;
        std::vector<std::uint32_t> line(tree.levelBegin[level + 1] - tree.levelBegin[level]);
        std::iota(line.begin(), line.end(), tree.levelBegin[level]);
        std::stable_sort(line.begin(), line.end(), [&](std::uint32_t a, std::uint32_t b) {
            const bool x = cells[a].state == CellState::Filled, y = cells[b].state == CellState::Filled;
            if (!x || !y) return x && !y;
            const int order = compareValues(cells[a].value, cells[b].value);
            return down ? order > 0 : order < 0;
        });
        for (std::size_t i = 0; i < line.size(); ++i) ranks[line[i]] = static_cast<std::uint32_t>(i);
    }
    return ranks;
}

}  // namespace jollyrow
