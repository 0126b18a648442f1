// SPDX-License-Identifier: MIT
#pragma once
// The SQLite source and store, for the registry.

#include <memory>
#include <string>

#include "core/sources/source.h"

namespace jollyrow::sqlite {

Result<std::shared_ptr<const Source>> openSource(const std::string& path);
Result<std::unique_ptr<Store>> openStore(const std::string& path);

}  // namespace jollyrow::sqlite
