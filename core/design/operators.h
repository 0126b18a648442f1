// SPDX-License-Identifier: MIT
#pragma once
// Operators: conditions with a name that filter rows, builders and rules offer: those that come with the product and
// those a design or an application adds. Each is a rule over a column's `value`.

#include <memory>
#include <span>
#include <string_view>
#include <vector>

#include "core/design/design.h"
#include "core/rules/sort_term.h"

namespace jollyrow {

/// Even, odd, top and bottom N and percent, above and below average, several times, once, same day of any year.
std::span<const OperatorDesign> standardOperators();
/// The design's own first, then the standard ones it does not redefine, as far as they suit the type.
std::vector<OperatorDesign> operatorsFor(const Design& design, Type type);
/// nullptr when there is none.
const OperatorDesign* findOperator(const Design& design, std::string_view name);

/// What an application registers in C++, and rules and sort keys name. Shared by sessions; set up before use.
struct Registered {
    std::vector<std::shared_ptr<const ExternalFunction>> functions;
    std::vector<std::shared_ptr<const ExternalAggregate>> aggregates = {};
    std::vector<std::shared_ptr<const ValueComparator>> comparators;
};

/// What rules of this design may name besides columns.
RuleVocabulary vocabularyOf(const Design& design, const Registered* registered = nullptr);

}  // namespace jollyrow
