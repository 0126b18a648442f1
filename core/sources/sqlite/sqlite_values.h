// SPDX-License-Identifier: MIT
#pragma once
// SQLite's loosely typed values <-> our typed ones. Declared types are read as the SQL standard names them.

#include <sqlite3.h>

#include <string>
#include <string_view>

#include "core/columns/column_chunk.h"
#include "core/columns/schema.h"
#include "core/columns/value.h"

namespace jollyrow::sqlite {

/// Sets type, scale, precision, maxLength from "DECIMAL(12,2)", "VARCHAR(40)", "DATE" …; Text when it says nothing.
void readDeclaredType(FieldSchema& field, std::string_view declared);
/// Neither a declaration nor the builder says what its values are, or how many decimals they have.
inline bool isTypeOpen(const FieldSchema& field) {
    return field.openScale || (field.declaredType.empty() && field.stored.form == StoredForm::Own);
}
/// What kinds of values a column without a full declaration was seen to hold.
struct SeenValues {
    unsigned kinds = 0;  ///< one bit a storage class
    int scale = 0;       ///< the most decimals that an exact number had
    int values = 0;      ///< of a declared type: neither empty nor a text of no length
    int fitting = 0;     ///< how many of them are of that type
    // Of a declared date or time: what its values could be.
    int instants = 0, timestamps = 0, seconds = 0, milliseconds = 0;
    int spaces = 0, offsets = 0;  ///< of the texts among them
    int decimals = -1;            ///< that all numbers in texts are written with; -1 = there are none
};
/// Of any value; valid until the next step.
std::string_view bytesOf(sqlite3_value* value);
void see(SeenValues& seen, sqlite3_value* value, const FieldSchema& field);
/// The same of a column whose type is declared: does it keep to it?
void seeDeclared(SeenValues& seen, sqlite3_value* value, const FieldSchema& field);
/// One value that fits is enough to believe a declaration; only of moments all count.
bool isBelieved(const SeenValues& seen, const FieldSchema& field);
/// What a column that is declared to hold dates and times was seen to hold: sets its type, how it is stored and how its
/// texts are written. False when the declaration says it, or nothing does.
bool fitMoment(FieldSchema& field, const SeenValues& seen);
/// Some values seen, all of one storage class, and none is of the declared type: then they are taken for what they are.
bool contradicts(const SeenValues& seen);
/// The type, or the scale, that holds all values seen. Requires: no declared type, one that they contradict, or
/// openScale.
void fitTo(FieldSchema& field, const SeenValues& seen);

/// Appends one stored value; what does not fit the field's type becomes a misfit. False for a misfit.
bool decodeInto(ColumnChunk& chunk, sqlite3_value* value, const FieldSchema& field);
/// The bytes of a value as text, as long as SQLite keeps it.
std::string_view textOf(sqlite3_value* value);
/// One stored value, boxed; a misfit comes back as Unfit.
Value decode(sqlite3_value* value, const FieldSchema& field);
/// Stay: a text or bytes that are bound as they are live unchanged until the statement has run and is bound anew.
enum class Texts { AreCopied, Stay };
/// Binds so that the column's affinity stores it exactly; decimals go as text. With a field the value goes in the form
/// in which its column has them.
void bindValue(sqlite3_stmt* statement, int index, const Value& value, const FieldSchema* field = nullptr,
               Texts texts = Texts::AreCopied);

}  // namespace jollyrow::sqlite
