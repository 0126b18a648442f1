// SPDX-License-Identifier: MIT
#include "core/session/schema_for.h"

#include "core/design/plan.h"

namespace jollyrow {

Binding bindingOf(const SourceDesign& source) { return {source.table, source.query, {}, source.readAs, source.zone}; }

Binding bindingFor(const Design& design, const TableSchema& schema) {
    Binding binding = bindingOf(design.source);
    for (const FieldSchema& field : schema.fields)
        if (field.join != 0) binding.related.push_back(field.name);
    return binding;
}

Result<TableSchema> schemaFor(const Source& source, const Design& design, const Registered* registered,
                              const Cancel& cancel) {
    Binding binding = bindingOf(design.source);
    auto schema = source.schema(binding, cancel);
    if (!schema) return schema;
    if (!schema->isView) binding.related = relatedFields(design, *schema);
    if (!binding.related.empty()) schema = source.schema(binding, cancel);
    return schema ? withComputedFields(std::move(*schema), design, registered) : schema;
}

std::shared_ptr<const Table> withSchema(const Table& loaded, TableSchema schema) {
    auto whole = std::make_shared<Table>(loaded);
    whole->columns.resize(schema.fields.size());
    if (loaded.roomy) whole->roomy = withSchema(*loaded.roomy, schema);
    whole->schema = std::move(schema);
    return whole;
}

}  // namespace jollyrow
