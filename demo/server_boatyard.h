// SPDX-License-Identifier: MIT
#pragma once
// The boatyard on a PostgreSQL server: the very records of a boatyard file.

#include <string>

#include "core/base/cancel.h"
#include "core/base/result.h"

namespace jollyrow::demo {

/// Makes the tables and copies the records of a file that makeBoatyard() made, in one transaction. Refuses where a
/// table of such a name is there already: it may be somebody's own.
Result<void> copyToServer(const std::string& file, const std::string& address, const Cancel& cancel = {});

}  // namespace jollyrow::demo
