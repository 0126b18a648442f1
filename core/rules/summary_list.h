// SPDX-License-Identifier: MIT
#pragma once
// Summaries as in a SELECT with GROUP BY: `COUNT(*), SUM(hours) AS hours, AVG(labour) FILTER (WHERE paid),
// PERCENTILE_CONT(0.5) WITHIN GROUP (ORDER BY hours), SUM(hours * rate) / SUM(hours)` (ISO/IEC 9075-2, 10.9 <aggregate
// function>). Arguments are rules; around the aggregates a rule may stand that reads nothing else of the records.

#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/result.h"
#include "core/columns/schema.h"
#include "core/rules/program.h"

namespace jollyrow {

enum class SummaryKind {
    Count,          ///< records, or those whose argument is not empty
    CountDistinct,  ///< different values that are not empty
    Sum,
    Average,
    Minimum,
    Maximum,
    Variance,              ///< of a sample: VAR_SAMP, VARIANCE
    VariancePopulation,    ///< VAR_POP
    Deviation,             ///< of a sample: STDDEV_SAMP, STDDEV
    DeviationPopulation,   ///< STDDEV_POP
    PercentileContinuous,  ///< between two values where it falls between them
    PercentileDiscrete,    ///< one of the values
    First,                 ///< of the first record that has one: FIRST_VALUE
    Last,                  ///< of the last: LAST_VALUE
    Every,                 ///< BOOL_AND, EVERY
    AnyOf,                 ///< BOOL_OR
    Joined,                ///< STRING_AGG
    Mode,                  ///< the value that most records have; of several the first in their order
    // of pairs (y, x) of which neither is empty (ISO/IEC 9075-2, 10.9 <binary set function>)
    Correlation,
    CovarianceSample,
    CovariancePopulation,
    RegressionCount,
    RegressionMeanX,
    RegressionMeanY,
    RegressionSlope,
    RegressionIntercept,
    RegressionFit,  ///< REGR_R2
    RegressionXX,
    RegressionYY,
    RegressionXY,
    External,  ///< of the application
};
/// As SQL writes it: "VAR_SAMP".
std::string_view name(SummaryKind kind);

/// ORDER BY inside an aggregate.
struct SummaryOrder {
    std::shared_ptr<const Program> key;
    bool descending = false;
    bool emptiesFirst = false;
};

/// One aggregate.
struct SummaryTerm {
    SummaryKind kind = SummaryKind::Count;
    std::shared_ptr<const Program> argument;  ///< null for COUNT(*)
    std::shared_ptr<const Program> filter;    ///< FILTER (WHERE …); may be null
    double fraction = 0.5;                    ///< of the percentiles, 0 to 1
    std::shared_ptr<const ExternalAggregate> external = {};
    std::string text = {};  ///< as it was written, which with the vocabulary names it
    std::shared_ptr<const Program> second = {};  ///< of pairs; of STRING_AGG what stands between
    bool distinct = false;                       ///< each value once
    std::vector<SummaryOrder> order = {};        ///< of STRING_AGG; else the order shown
    /// Exact for whole numbers and decimals but for deviations and PERCENTILE_CONT, which are doubles.
    RuleType type;
};

/// One figure of a group.
struct SummaryRule {
    std::string name;  ///< behind AS; else `text`
    std::string text;
    std::vector<SummaryTerm> terms;        ///< its aggregates, in the order written
    std::shared_ptr<const Program> outer;  ///< what is made of them, each a parameter (aggregateName); null: the first
    RuleType type;
};
/// The parameter by which `outer` reads a term.
std::string aggregateName(std::size_t term);

/// Errors name the place in the whole list. Aggregates OVER (…) cannot stand in arguments. O(length).
Result<std::vector<SummaryRule>> parseSummaryList(std::string_view text, const TableSchema& schema,
                                                  const RuleVocabulary& vocabulary = {});
/// One of them, without AS.
Result<SummaryRule> parseSummary(std::string_view text, const TableSchema& schema,
                                 const RuleVocabulary& vocabulary = {});

/// The columns that a text may name, dotted ones whole; words of the language among them. For texts with aggregates,
/// which are no rules; nothing for a text that breaks off.
std::vector<std::string> namesIn(std::string_view text);
/// Calls visit(program) for each rule that an aggregate runs over the records.
template <class Visit>
void eachProgram(const SummaryTerm& term, const Visit& visit) {
    for (const auto& program : {term.argument, term.second, term.filter})
        if (program) visit(program);
    for (const SummaryOrder& key : term.order) visit(key.key);
}
/// The fields a summary reads.
std::vector<FieldIndex> fieldsOf(const SummaryTerm& term);
std::vector<FieldIndex> fieldsOf(const SummaryRule& rule);

}  // namespace jollyrow
