// SPDX-License-Identifier: MIT
#pragma once
// Conversions between the kinds of the rule language, one value at a time, as CAST does them (ISO/IEC 9075-2, 6.13;
// texts of numbers, dates and yes/no as PostgreSQL reads and writes them).

#include <optional>
#include <string>
#include <string_view>

#include "core/columns/time_zone.h"
#include "core/rules/rule_type.h"

namespace jollyrow {

/// May CAST go from one to the other at all?
bool canConvert(RuleKind from, RuleKind to);

// Texts to values; blanks around are allowed. nullopt when it is not that.
std::optional<std::int64_t> integerFromText(std::string_view text);
std::optional<double> realFromText(std::string_view text);
/// The double with the same shortest text: 1004.3f is 1004.3, not 1004.2999877929688.
double realOfFloat(float value);
std::optional<bool> booleanFromText(std::string_view text);
std::optional<std::int32_t> dateFromText(std::string_view text);
std::optional<std::int64_t> timeFromText(std::string_view text);
std::optional<std::int64_t> timestampFromText(std::string_view text);
/// With an offset or, without, on the zone's clocks.
std::optional<std::int64_t> instantFromText(std::string_view text, const TimeZone& zone);

/// Shortest digits that read back: "0.1", "1e+20".
std::string textOfReal(double value);
/// "2026-11-24 08:00:00".
std::string textOfTimestamp(std::int64_t micros);
/// On the zone's clocks: "2026-11-24 09:00:00+01".
std::string textOfInstant(std::int64_t micros, const TimeZone& zone);
/// "08:00:00".
std::string textOfTime(std::int64_t micros);
std::string textOfDate(std::int32_t days);
/// As CAST(… AS TEXT) has it, instants in UTC; "" for empty.
std::string textOf(const RuleValue& value);

/// The same with instants on the zone's clocks, without an offset unless they show that time twice. Read back in that
/// zone it is the same value.
std::string localTextOf(const RuleValue& value, const TimeZone& zone);

/// A literal beside another kind: texts are read as that kind, whole numbers widen, NULL stays. nullopt when not.
/// Dates and times that become instants, and the reverse, are of `zone`.
std::optional<RuleValue> convertedConstant(const RuleValue& value, RuleKind to,
                                           const TimeZone& zone = TimeZone::machine());
/// As the language writes it: DATE '2026-11-24'.
std::string constantText(const RuleValue& value);

/// Values of one kind in their order; texts as rules order them.
int compareValues(const RuleValue& a, const RuleValue& b);

}  // namespace jollyrow
