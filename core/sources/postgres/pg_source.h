// SPDX-License-Identifier: MIT
#pragma once
// PostgreSQL (12 and later) as a source and a store. An address is a connection URI ("postgresql://host/database",
// "postgresql:///?service=yard"; PostgreSQL's documentation, 34.1.1.2). What it leaves out libpq takes from its
// environment, service and password files. Registered in core/sources/source_kinds.cpp.

#include <optional>
#include <string>
#include <vector>

#include "core/sources/source.h"

namespace jollyrow::postgres {

bool knows(const std::string& address);
/// Why this cannot be an address: it cannot be read, or has a password in it, which would come to stand in files. Or
/// why no server can be opened at all: this machine has no libpq.
std::optional<Error> whyNotAnAddress(const std::string& address);
Result<std::shared_ptr<const Source>> openSource(const std::string& address);
Result<std::unique_ptr<Store>> openStore(const std::string& address);
/// The function and the trigger that tell what is changed in a table (Store::seenElsewhere), for a builder to look at
/// and run. Of `related` tables, whose columns are shown beside, it is told only that something was changed in them.
std::string triggerSql(const std::string& table, const std::vector<std::string>& keyFields,
                       const std::vector<std::string>& related = {});

}  // namespace jollyrow::postgres
