// SPDX-License-Identifier: MIT
#pragma once
// The foreign keys of a SQLite database that point to a table (sqlite.org/foreignkeys.html).

#include <sqlite3.h>

#include <string>
#include <vector>

#include "core/base/result.h"
#include "core/sources/source.h"

namespace jollyrow::sqlite {

struct Link {
    std::string table;                 ///< that has the foreign key
    std::vector<std::string> fields;   ///< of it
    std::vector<std::string> targets;  ///< of the table that is pointed to; "" = its primary key lacks such a one
    Dependents::Then then = Dependents::Then::Refuse;
    bool isWhole() const;
    /// The fields are those of alias `c`, the targets those of alias `p`, which sets how they are compared.
    std::string condition() const;
};

/// Those of all tables, this one among them. A target that is not named is the primary key.
Result<std::vector<Link>> linksTo(sqlite3* connection, const std::string& table);

}  // namespace jollyrow::sqlite
