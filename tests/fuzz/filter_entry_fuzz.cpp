// SPDX-License-Identifier: MIT
// Any bytes typed into the filter row of a column (chosen by the first byte): an error in words, or a condition whose
// rule means itself again.
#include <cstdint>
#include <cstdlib>

#include "core/design/condition.h"
#include "core/design/filter_entry.h"
#include "core/design/operators.h"
#include "tests/rules/rule_records.h"

using namespace jollyrow;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    if (size == 0) return 0;
    static const auto table = test::tableOf(test::hardFields());
    static const Design design;
    const TableSchema& schema = table->schema;
    const std::string entry(reinterpret_cast<const char*>(data) + 1, size - 1);
    const auto condition =
        conditionFromEntry(entry, design, schema, schema.fields[data[0] % schema.fields.size()].name);
    if (!condition) {
        if (condition.error().message.empty()) std::abort();
        return 0;
    }
    const std::string rule = ruleOf(*condition, schema);
    if (rule.empty()) return 0;
    BindOptions options;
    options.expected = RuleKind::Boolean;
    const auto program = compileRule(rule, schema, vocabularyOf(design), options);
    if (program && ruleOf(conditionFrom(rule, schema, design), schema) != rule) std::abort();
    sentenceOf(*condition, schema, design);
    return 0;
}
