// SPDX-License-Identifier: MIT
#include "core/session/schema_for.h"

#include "core/design/plan.h"

namespace jollyrow {

Binding bindingFor(const Design& design, const TableSchema& schema) {
    Binding binding{design.source.table, design.source.query, {}};
    for (const FieldSchema& field : schema.fields)
        if (field.join != 0) binding.related.push_back(field.name);
    return binding;
}

Result<TableSchema> schemaFor(const Source& source, const Design& design, const Registered* registered) {
    Binding binding{design.source.table, design.source.query, {}};
    auto schema = source.schema(binding);
    if (!schema) return schema;
    if (!schema->isView) binding.related = relatedFields(design, *schema);
    if (!binding.related.empty()) schema = source.schema(binding);
    return schema ? withComputedFields(std::move(*schema), design, registered) : schema;
}

std::shared_ptr<const Table> withSchema(const Table& loaded, TableSchema schema) {
    auto whole = std::make_shared<Table>(loaded);
    whole->columns.resize(schema.fields.size());
    whole->schema = std::move(schema);
    return whole;
}

}  // namespace jollyrow
