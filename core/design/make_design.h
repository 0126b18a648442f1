// SPDX-License-Identifier: MIT
#pragma once
// The design a table gets by itself, before anyone has settled anything.

#include <string>
#include <string_view>

#include "core/columns/schema.h"
#include "core/design/design.h"

namespace jollyrow {

/// "due_on" -> "Due on", "dueOn" -> "Due on", "VAT" -> "VAT". A foreign key's "_id" is left off when `isLink`.
std::string headingFor(std::string_view field, bool isLink);
/// "Late by" -> "late_by": what rules may call a thing with this heading; "" when nothing is left of it.
std::string nameFor(std::string_view heading);
ColumnDesign columnFor(const FieldSchema& field);
/// All fields as columns, in schema order; binary ones start hidden, the last text column takes what is left.
/// Parameters of a SELECT become parameters of the design.
Design designFor(const TableSchema& schema, SourceDesign source);

}  // namespace jollyrow
