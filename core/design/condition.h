// SPDX-License-Identifier: MIT
#pragma once
// Condition: a search condition as people build and read it: groups of all, any or none, and single tests of one
// column. It is one with the rule language: every rule becomes a Condition (what has no form of its own stays as text),
// and every Condition a rule. Filter rows, pick lists, the builder and the words above the grid all stand on it.

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/columns/schema.h"
#include "core/design/design.h"

namespace jollyrow {

enum class ConditionKind {
    All,   ///< every child holds; without children: always
    Any,   ///< at least one does
    None,  ///< none does
    Test,  ///< one column
    Rule,  ///< any other condition, as text
};

enum class Test {
    Equal,
    NotEqual,
    Less,
    LessEqual,
    Greater,
    GreaterEqual,
    Between,   ///< two values
    OneOf,     ///< any number of values
    Contains,  ///< texts; case does not matter, as in the four that follow
    StartsWith,
    EndsWith,
    Is,  ///< the same text but for case
    IsEmpty,
    IsTrue,
    IsFalse,
    Period,    ///< of a date: "today", "this week"…; the value is its name
    Operator,  ///< an operator by name, further arguments in `values`
};

/// "value" in plain form: 2.50, 2026-11-24, Done.
struct Condition {
    ConditionKind kind = ConditionKind::All;
    std::vector<Condition> children = {};
    Test test = Test::Equal;
    std::string field = {};
    bool negated = false;  ///< of a Test: "not …"
    bool toField = false;  ///< the value is the name of another field
    std::vector<std::string> values = {};
    std::string name = {};  ///< of an Operator
    std::string rule = {};  ///< of a Rule
    bool operator==(const Condition&) const = default;

    static Condition of(Test test, std::string field, std::vector<std::string> values = {}) {
        Condition out;
        out.kind = ConditionKind::Test;
        out.test = test;
        out.field = std::move(field);
        out.values = std::move(values);
        return out;
    }
};

/// Never fails: a text that is no rule becomes a Rule. Nesting past 60 levels becomes one as well.
Condition conditionFrom(const std::string& rule, const TableSchema& schema, const Design& design);
/// "" for a group without children.
std::string ruleOf(const Condition& condition, const TableSchema& schema);
/// "Status is not Done", "all of: …"; headings instead of fields.
std::string sentenceOf(const Condition& condition, const TableSchema& schema, const Design& design);

/// Periods of dates, in the order in which menus offer them.
const std::vector<std::string>& periodNames();
/// A field as rules write it: in double quotes where it must be.
std::string fieldInRule(std::string_view field);
/// What a filter at this column tests: the label of a look-up, else the field itself.
std::string testedField(const Design& design, const TableSchema& schema, const std::string& field);

}  // namespace jollyrow
