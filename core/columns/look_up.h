// SPDX-License-Identifier: MIT
#pragma once
// LookUpEntry: a record of another table that a look-up may point to.

#include <string>

#include "core/columns/value.h"

namespace jollyrow {

struct LookUpEntry {
    Value key;
    std::string label;
    bool operator==(const LookUpEntry&) const = default;
};

}  // namespace jollyrow
