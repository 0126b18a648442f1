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

Result<TableSchema> schemaFor(const Source& source, const Design& design) {
    Binding binding{design.source.table, design.source.query, {}};
    auto schema = source.schema(binding);
    if (!schema || schema->isView) return schema;
    binding.related = relatedFields(design, *schema);
    return binding.related.empty() ? schema : source.schema(binding);
}

}  // namespace jollyrow
