// SPDX-License-Identifier: MIT
// Covered by tests/session/session_test.cpp.
#include "core/session/session_view.h"

#include <algorithm>
#include <utility>

#include "core/columns/time_zone.h"
#include "core/rules/conversion.h"
#include "core/rules/query_parameters.h"

namespace jollyrow {

void SessionView::setParameter(const std::string& name, const Value& value) {
    const auto& parameters = bound_.design.parameters;
    const auto known =
        std::find_if(parameters.begin(), parameters.end(), [&](const ParameterDesign& p) { return p.name == name; });
    if (known == parameters.end()) return;
    auto& given = bound_.state.parameters;
    const auto before = given;
    if (isEmpty(value))
        given.erase(name);
    else if (const auto fitted = convertedConstant(ruleValue(value), ruleKindOf(known->type), zoneOf(bound_.schema)))
        given.insert_or_assign(name, *fitted);
    if (given == before) return;
    const auto asked = parametersIn(bound_.design.source.query);
    if (std::find(asked.begin(), asked.end(), name) == asked.end()) return view_.recompute();
    loading_.begin();
}

void SessionView::setBypassed(Stage stage, bool bypassed) {
    if (isBypassed(stage) == bypassed) return;
    bypassed ? void(bound_.state.bypassed.insert(stage)) : void(bound_.state.bypassed.erase(stage));
    view_.recompute();
}

void SessionView::setOnly(std::shared_ptr<const RecordSet> only) {
    if (only == bound_.state.only) return;
    bound_.state.only = std::move(only);
    view_.recompute();
}

}  // namespace jollyrow
