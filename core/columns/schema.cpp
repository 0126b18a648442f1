// SPDX-License-Identifier: MIT
#include "core/columns/schema.h"

namespace jollyrow {

std::optional<FieldIndex> TableSchema::find(std::string_view wanted) const {
    for (std::size_t i = 0; i < fields.size(); ++i)
        if (fields[i].name == wanted) return static_cast<FieldIndex>(i);
    return std::nullopt;
}

std::size_t TableSchema::storedFields() const {
    std::size_t n = fields.size();
    while (n > 0 && !fields[n - 1].rule.empty()) --n;
    return n;
}

}  // namespace jollyrow
