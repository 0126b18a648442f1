// SPDX-License-Identifier: MIT
#pragma once
// The schema a design needs: its table's own fields and the related ones it names. One place, for the session, the
// command line and the workbench.

#include "core/base/result.h"
#include "core/design/design.h"
#include "core/sources/source.h"

namespace jollyrow {

/// What a design is bound to, for a schema that has its related fields already.
Binding bindingFor(const Design& design, const TableSchema& schema);
/// Blocks for the schema, a few milliseconds.
Result<TableSchema> schemaFor(const Source& source, const Design& design);

}  // namespace jollyrow
