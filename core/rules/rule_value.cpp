// SPDX-License-Identifier: MIT
#include "core/rules/rule_type.h"

namespace jollyrow {

RuleValue::RuleValue() noexcept = default;
RuleValue::RuleValue(const RuleValue& other) = default;
RuleValue::RuleValue(RuleValue&& other) noexcept = default;
RuleValue& RuleValue::operator=(const RuleValue& other) = default;
RuleValue& RuleValue::operator=(RuleValue&& other) noexcept = default;
RuleValue::~RuleValue() = default;
bool operator==(const RuleValue& a, const RuleValue& b) {
    return static_cast<const RuleValue::variant&>(a) == static_cast<const RuleValue::variant&>(b);
}

}  // namespace jollyrow
