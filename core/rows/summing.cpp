// SPDX-License-Identifier: MIT
// Covered by tests/rows/group_test.cpp against PostgreSQL.
#include "core/rows/summing.h"

#include "core/columns/decimal_functions.h"
#include "core/rules/conversion.h"
#include "core/rules/kernels.h"

namespace jollyrow {
namespace {

bool isVariance(SummaryKind kind) { return kind >= SummaryKind::Variance && kind <= SummaryKind::DeviationPopulation; }

void addExact(Summing& sum, WideDecimal& into, const std::optional<WideDecimal>& value) {
    const auto next = value ? added(into, *value) : std::nullopt;
    if (next)
        into = *next;
    else
        sum.failed = CellState::TooLarge;
}

void takeExtreme(Summing& sum, SummaryKind kind, RuleValue value) {
    if (std::holds_alternative<Empty>(value)) return;
    if (std::holds_alternative<Empty>(sum.extreme)) {
        sum.extreme = std::move(value);
        return;
    }
    const int order = compareValues(value, sum.extreme);
    if (kind == SummaryKind::Minimum ? order < 0 : order > 0) sum.extreme = std::move(value);
}

std::optional<WideDecimal> exactSum(const Summing& sum) { return added(sum.exact, {sum.narrow, sum.narrowScale}); }

EvaluatedCell variance(const Summing& sum, const SummaryTerm& term) {
    const bool population =
        term.kind == SummaryKind::VariancePopulation || term.kind == SummaryKind::DeviationPopulation;
    const bool root = term.kind == SummaryKind::Deviation || term.kind == SummaryKind::DeviationPopulation;
    if (sum.count < (population ? 1 : 2)) return {};
    const auto total = exactSum(sum);
    const auto made = total ? varianceOf(sum.count, *total, sum.squares, population, root) : std::nullopt;
    return made ? EvaluatedCell{CellState::Filled, *made} : EvaluatedCell{CellState::TooLarge, Empty{}};
}

}  // namespace

void add(Summing& into, const SummaryTerm& term, const Vector& v, std::size_t i) {
    const CellState state = v.state(i);
    if (isError(state) && state != CellState::Misfit && into.failed == CellState::Filled) into.failed = state;
    if (state != CellState::Filled) return;
    ++into.count;
    if (term.kind == SummaryKind::Minimum || term.kind == SummaryKind::Maximum)
        return takeExtreme(into, term.kind, boxed(v, i));
    if (term.kind != SummaryKind::Sum && term.kind != SummaryKind::Average && !isVariance(term.kind)) return;
    const bool isNarrow = v.kind == RuleKind::Integer || !v.wide;
    const int scale = v.kind == RuleKind::Integer ? 0 : v.scale;
    const WideDecimal value = v.kind == RuleKind::Integer ? WideDecimal{v.integers[v.at(i)], 0} : v.decimal(i);
    if (isNarrow && (into.narrow == 0 || into.narrowScale == scale)) {
        into.narrow += value.mantissa;
        into.narrowScale = scale;
    } else {
        addExact(into, into.exact, value);
    }
    if (isVariance(term.kind)) addExact(into, into.squares, multiplied(value, value));
}

void merge(Summing& into, const SummaryTerm& term, const Summing& from) {
    if (into.failed == CellState::Filled) into.failed = from.failed;
    if (from.count == 0) return;
    into.count += from.count;
    if (into.narrow == 0 || into.narrowScale == from.narrowScale) {
        into.narrow += from.narrow;
        into.narrowScale = from.narrowScale;
    } else {
        addExact(into, into.exact, WideDecimal{from.narrow, from.narrowScale});
    }
    addExact(into, into.exact, from.exact);
    addExact(into, into.squares, from.squares);
    takeExtreme(into, term.kind, from.extreme);
}

EvaluatedCell settled(const Summing& sum, const SummaryTerm& term) {
    if (sum.failed != CellState::Filled) return {sum.failed, Empty{}};
    if (term.kind == SummaryKind::Count) return {CellState::Filled, sum.count};
    if (sum.count == 0) return {};
    if (isVariance(term.kind)) return variance(sum, term);
    if (term.kind == SummaryKind::Minimum || term.kind == SummaryKind::Maximum) return {CellState::Filled, sum.extreme};
    auto result = exactSum(sum);
    if (result && term.kind == SummaryKind::Average) result = divided(*result, {sum.count, 0});
    return result ? EvaluatedCell{CellState::Filled, *result} : EvaluatedCell{CellState::TooLarge, Empty{}};
}

}  // namespace jollyrow
