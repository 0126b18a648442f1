// SPDX-License-Identifier: MIT
#include "core/design/plan.h"

#include <fmt/format.h>

#include "core/base/near_name.h"

namespace jollyrow {
namespace {

Alignment naturalAlignment(Type type) {
    if (type == Type::Boolean) return Alignment::Center;
    return isNumber(type) ? Alignment::Right : Alignment::Left;
}

Finding missing(std::string where, const std::string& field, const TableSchema& schema, const Design& design) {
    std::vector<std::string> unused;
    for (const FieldSchema& candidate : schema.fields)
        if (!design.column(candidate.name)) unused.push_back(candidate.name);
    const auto near = nearestName(field, unused);
    return {Severity::Problem, std::move(where),
            fmt::format("{} has no column {}.{}", schema.name, field,
                        near ? fmt::format(" It may be called {} now.", *near)
                             : " Take it out of the design or add it to the table."),
            near.value_or("")};
}

}  // namespace

ViewPlan planOf(const Design& design, const TableSchema& schema) {
    ViewPlan plan;
    plan.wanted.assign(schema.fields.size(), false);
    for (std::size_t i = 0; i < schema.fields.size(); ++i) plan.wanted[i] = schema.fields[i].type != Type::Binary;
    for (const ColumnDesign& column : design.columns) {
        const auto field = schema.find(column.field);
        if (!field) {
            plan.findings.push_back(missing("columns/" + column.field, column.field, schema, design));
            continue;
        }
        if (!column.shown) continue;
        const FieldSchema& found = schema.field(*field);
        plan.wanted[raw(*field)] = true;
        PlannedColumn planned;
        planned.field = *field;
        planned.design = column;
        planned.format = defaultFormat(found, found.use == Use::LookUp);
        planned.alignment = column.alignment == Alignment::Automatic ? naturalAlignment(found.type) : column.alignment;
        planned.editable = schema.writable && !column.readOnly && !found.generated && found.type != Type::Binary &&
                           found.type != Type::NumberList;
        plan.columns.push_back(std::move(planned));
    }
    for (const SortDesign& key : design.sort) {
        const auto field = schema.find(key.field);
        if (!field) {
            plan.findings.push_back(missing("sort/" + key.field, key.field, schema, design));
            continue;
        }
        const Type type = schema.field(*field).type;
        if (type == Type::Binary || type == Type::NumberList)
            plan.findings.push_back(
                {Severity::Problem, "sort/" + key.field,
                 fmt::format("{} holds {}, which has no order; it does not sort.", key.field, article(type)), ""});
        else
            plan.sort.push_back({*field, key.direction, key.empties});
    }
    return plan;
}

}  // namespace jollyrow
