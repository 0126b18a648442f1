// SPDX-License-Identifier: MIT
// Fields are added in rounds: each round takes those whose rules can be understood with what is there already. What is
// left at the end is wrong, or goes round in a circle. Covered by tests/rows/computed_test.cpp.
#include "core/design/computed_fields.h"

#include <fmt/format.h>

#include <algorithm>

#include "core/rules/syntax.h"

namespace jollyrow {
namespace {

FieldSchema fieldOf(const ColumnDesign& column, const Program& program) {
    FieldSchema field;
    field.name = column.field;
    field.type = columnTypeOf(program.type().kind);
    if (field.type == Type::Decimal) field.scale = program.type().scale;
    field.generated = true;
    field.rule = column.rule;
    return field;
}

TableSchema storedOnly(TableSchema schema) {
    schema.fields.resize(schema.storedFields());
    return schema;
}

}  // namespace

Result<std::shared_ptr<const Program>> compileColumn(const std::string& rule, const TableSchema& fields,
                                                     const RuleVocabulary& vocabulary) {
    auto program = compileRule(rule, fields, vocabulary);
    if (!program) return program;
    const RuleType type = (*program)->type();
    if (type.kind == RuleKind::Interval)
        return Error{ErrorCode::InvalidInput,
                     "This gives a span of time, which a column does not hold. Take a number out of it, e.g. "
                     "EXTRACT(DAY FROM …), or subtract dates instead of timestamps.",
                     TextRange{0, rule.size()}};
    // A column has one scale: 64 bits cannot hold what division in 38 digits gives.
    if (type.kind == RuleKind::Decimal && (type.scale == RuleType::kVaries || type.scale > Decimal::kMaxScale))
        return compileRule(fmt::format("CAST(({}) AS DECIMAL(38, {}))", rule, kComputedScale), fields, vocabulary);
    return program;
}

Result<void> checkComputedName(const std::string& name, const TableSchema& schema) {
    const auto allowed = [](char c) {
        return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '_' ||
               static_cast<unsigned char>(c) >= 0x80;
    };
    if (name.empty()) return Error{ErrorCode::InvalidInput, "The column needs a name, by which rules call it."};
    if (!std::all_of(name.begin(), name.end(), allowed) || (name.front() >= '0' && name.front() <= '9'))
        return Error{
            ErrorCode::InvalidInput,
            fmt::format("\"{}\" is no name for a column: letters, digits and underscores, a letter first.", name)};
    if (const auto known = schema.find(name); known && schema.field(*known).rule.empty())
        return Error{ErrorCode::InvalidInput, fmt::format("{} has a column {} already.", schema.name, name)};
    return {};
}

TableSchema withComputedFields(TableSchema given, const Design& design, const Registered* registered) {
    TableSchema schema = storedOnly(std::move(given));
    std::vector<const ColumnDesign*> waiting;
    for (const ColumnDesign& column : design.columns)
        if (!column.rule.empty() && checkComputedName(column.field, schema)) waiting.push_back(&column);
    if (waiting.empty()) return schema;
    const RuleVocabulary vocabulary = vocabularyOf(design, registered);
    for (bool goesOn = true; goesOn && !waiting.empty();) {
        goesOn = false;
        std::erase_if(waiting, [&](const ColumnDesign* column) {
            const auto program = compileColumn(column->rule, schema, vocabulary);
            if (!program) return false;
            schema.fields.push_back(fieldOf(*column, **program));
            return goesOn = true;
        });
    }
    return schema;
}

std::vector<ComputedTerm> computedTerms(const Design& design, const TableSchema& schema, const Registered* registered) {
    std::vector<ComputedTerm> terms;
    const std::size_t stored = schema.storedFields();
    if (stored == schema.fields.size()) return terms;
    const RuleVocabulary vocabulary = vocabularyOf(design, registered);
    for (std::size_t i = stored; i < schema.fields.size(); ++i)
        if (auto program = compileColumn(schema.fields[i].rule, schema, vocabulary))
            terms.push_back({static_cast<FieldIndex>(i), std::move(*program)});
    return terms;
}

std::string whyNotComputed(const Design& design, const ColumnDesign& column, const TableSchema& schema,
                           const Registered* registered) {
    const std::string start = fmt::format("{} cannot be computed. ", column.field);
    if (auto name = checkComputedName(column.field, schema); !name) return start + name.error().message;
    for (const std::string& used : columnsNamed(column.rule)) {
        if (used == column.field) return start + "Its rule reads the column itself.";
        const ColumnDesign* other = design.column(used);
        if (other && !other->rule.empty() && !schema.find(used))
            return start + fmt::format(
                               "It reads {}, which cannot be computed either; columns that are computed from "
                               "each other have no beginning.",
                               used);
    }
    const auto program = compileColumn(column.rule, schema, vocabularyOf(design, registered));
    return start + (program ? std::string("Another column has its name.") : program.error().message);
}

}  // namespace jollyrow
