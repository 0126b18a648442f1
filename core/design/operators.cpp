// SPDX-License-Identifier: MIT
#include "core/design/operators.h"

#include <algorithm>

namespace jollyrow {

std::span<const OperatorDesign> standardOperators() {
    static const std::vector<Type> kNumbers = {Type::Integer, Type::Decimal, Type::Real};
    static const std::vector<Type> kOrdered = {Type::Integer, Type::Decimal,   Type::Real,   Type::Date,
                                               Type::Time,    Type::Timestamp, Type::Instant};
    static const std::vector<OperatorDesign> kAll = {
        {"is_even", "is even", {}, "MOD(value, 2) = 0", {Type::Integer, Type::Decimal}},
        {"is_odd", "is odd", {}, "MOD(value, 2) <> 0", {Type::Integer, Type::Decimal}},
        {"top",
         "is among the largest",
         {"count"},
         "value IS NOT NULL AND RANK() OVER (ORDER BY value IS NULL, value DESC) <= count",
         kOrdered},
        {"bottom",
         "is among the smallest",
         {"count"},
         "value IS NOT NULL AND RANK() OVER (ORDER BY value IS NULL, value) <= count",
         kOrdered},
        {"top_percent",
         "is in the top percent",
         {"percent"},
         "value IS NOT NULL AND RANK() OVER (ORDER BY value IS NULL, value DESC) <= CEIL(COUNT(value) OVER () * "
         "percent / 100.0)",
         kOrdered},
        {"bottom_percent",
         "is in the bottom percent",
         {"percent"},
         "value IS NOT NULL AND RANK() OVER (ORDER BY value IS NULL, value) <= CEIL(COUNT(value) OVER () * percent / "
         "100.0)",
         kOrdered},
        {"above_average", "is above average", {}, "value > AVG(value) OVER ()", kNumbers},
        {"below_average", "is below average", {}, "value < AVG(value) OVER ()", kNumbers},
        {"is_repeated", "stands several times", {}, "value IS NOT NULL AND COUNT(*) OVER (PARTITION BY value) > 1", {}},
        {"is_single", "stands once", {}, "value IS NOT NULL AND COUNT(*) OVER (PARTITION BY value) = 1", {}},
        {"same_day",
         "is on this day of any year",
         {"day"},
         "EXTRACT(MONTH FROM value) = EXTRACT(MONTH FROM day) AND EXTRACT(DAY FROM value) = EXTRACT(DAY FROM day)",
         {Type::Date, Type::Timestamp, Type::Instant}},
    };
    return kAll;
}

const OperatorDesign* findOperator(const Design& design, std::string_view name) {
    const auto named = [&](const auto& list) {
        const auto found =
            std::find_if(list.begin(), list.end(), [&](const OperatorDesign& o) { return o.name == name; });
        return found == list.end() ? nullptr : &*found;
    };
    if (const OperatorDesign* own = named(design.operators)) return own;
    return named(standardOperators());
}

std::vector<OperatorDesign> operatorsFor(const Design& design, Type type) {
    std::vector<OperatorDesign> out;
    const auto add = [&](const OperatorDesign& o) {
        const bool suits = o.types.empty() || std::find(o.types.begin(), o.types.end(), type) != o.types.end();
        const bool known =
            std::any_of(out.begin(), out.end(), [&](const OperatorDesign& other) { return other.name == o.name; });
        if (suits && !known) out.push_back(o);
    };
    for (const OperatorDesign& own : design.operators) add(own);
    for (const OperatorDesign& standard : standardOperators()) add(standard);
    return out;
}

RuleVocabulary vocabularyOf(const Design& design, const Registered* registered) {
    RuleVocabulary out;
    const auto add = [&](const OperatorDesign& o) {
        const bool known = std::any_of(out.functions.begin(), out.functions.end(),
                                       [&](const RuleFunction& f) { return f.name == o.name; });
        if (known) return;
        RuleFunction function{o.name, {"value"}, o.rule};
        function.arguments.insert(function.arguments.end(), o.arguments.begin(), o.arguments.end());
        out.functions.push_back(std::move(function));
    };
    for (const OperatorDesign& own : design.operators) add(own);
    for (const OperatorDesign& standard : standardOperators()) add(standard);
    for (const ParameterDesign& parameter : design.parameters)
        out.parameters.push_back({parameter.name, ruleKindOf(parameter.type)});
    if (registered) {
        out.externals = registered->functions;
        out.aggregates = registered->aggregates;
    }
    return out;
}

}  // namespace jollyrow
