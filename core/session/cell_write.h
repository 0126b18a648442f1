// SPDX-License-Identifier: MIT
#pragma once
// CellWrite: a value for a cell.

#include <string>

#include "core/base/indexes.h"
#include "core/columns/value.h"

namespace jollyrow {

/// A value for a cell, and what a look-up shows for it until its related fields have been read again.
struct CellWrite {
    SourceRow row{};
    FieldIndex field{};
    Value value;
    std::string label = {};
};

}  // namespace jollyrow
