// SPDX-License-Identifier: MIT
#pragma once
// The functions and the collation that rules written as SQL for SQLite name (sql_writer.h), put on a connection, so
// that the database computes what the program computes.

#include <sqlite3.h>

#include "core/base/result.h"

namespace jollyrow::sqlite {

/// jollyrow_like, jollyrow_upper, jollyrow_lower and the collation jollyrow; gone with the connection.
Result<void> registerRules(sqlite3* connection);

}  // namespace jollyrow::sqlite
