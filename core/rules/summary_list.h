// SPDX-License-Identifier: MIT
#pragma once
// A list of summaries as in a SELECT with GROUP BY: `COUNT(*), SUM(hours) AS hours, AVG(labour) FILTER (WHERE paid),
// PERCENTILE_CONT(0.5) WITHIN GROUP (ORDER BY hours)` (ISO/IEC 9075-2, 10.9 <aggregate function>). Arguments are rules.

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
};
/// As SQL writes it: "VAR_SAMP".
std::string_view name(SummaryKind kind);

struct SummaryTerm {
    SummaryKind kind = SummaryKind::Count;
    std::shared_ptr<const Program> argument;  ///< null for COUNT(*)
    std::shared_ptr<const Program> filter;    ///< FILTER (WHERE …); may be null
    double fraction = 0.5;                    ///< of the percentiles, 0 to 1
    std::string name;                         ///< behind AS; else the summary's text
    /// Exact for whole numbers and decimals but for deviations and PERCENTILE_CONT, which are doubles.
    RuleType type;
};

/// Errors name the place in the whole list. Aggregates OVER (…) cannot stand in arguments. O(length).
Result<std::vector<SummaryTerm>> parseSummaryList(std::string_view text, const TableSchema& schema,
                                                  const RuleVocabulary& vocabulary = {});

}  // namespace jollyrow
