// SPDX-License-Identifier: MIT
#pragma once
// The schema a design needs: its table's own fields, the related ones it names, its computed ones. One place, for the
// session, the command line and the workbench.

#include "core/base/result.h"
#include "core/design/computed_fields.h"
#include "core/sources/source.h"

namespace jollyrow {

/// What a design is bound to, without related fields.
Binding bindingOf(const SourceDesign& source);
/// What a design is bound to, for a schema that has its related fields already.
Binding bindingFor(const Design& design, const TableSchema& schema);
/// Blocks for the schema, as Source does.
Result<TableSchema> schemaFor(const Source& source, const Design& design, const Registered* registered = nullptr,
                              const Cancel& cancel = {});

/// A loaded table with the computed fields of `schema`, which are not filled yet.
std::shared_ptr<const Table> withSchema(const Table& loaded, TableSchema schema);

}  // namespace jollyrow
