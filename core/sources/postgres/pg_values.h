// SPDX-License-Identifier: MIT
#pragma once
// Values of PostgreSQL: how its types are ours, how columns are selected so that their binary form is known, and the
// way of one value out of that form and into a parameter. Formats: PostgreSQL's documentation, 55.7, and the send
// functions of its types.

#include <string>
#include <string_view>

#include "core/columns/column_chunk.h"
#include "core/columns/schema.h"
#include "core/columns/value.h"
#include "core/sources/postgres/pg_connection.h"

namespace jollyrow::postgres {

/// Sets type, scale, precision, maxLength and declaredType of a field whose base type has this name in pg_type, with
/// this typmod. `words` is what format_type() says.
void readType(FieldSchema& field, std::string_view name, int typmod, bool isArray, bool isEnum,
              const std::string& words);

/// `column` (an SQL expression) as it is selected for this field.
std::string selected(const FieldSchema& field, const std::string& column);

/// One cell of a column selected so; NULL is an empty one.
Value decode(const FieldSchema& field, std::string_view bytes);
void decodeInto(ColumnChunk& chunk, const FieldSchema& field, std::string_view bytes);
/// A value as a parameter for a column of this field.
Parameter encoded(const Value& value, const FieldSchema& field);

}  // namespace jollyrow::postgres
