// SPDX-License-Identifier: MIT
#include "core/design/design.h"

#include <algorithm>
#include <utility>

namespace jollyrow {

const ColumnDesign* Design::column(std::string_view field) const {
    const auto found =
        std::find_if(columns.begin(), columns.end(), [field](const ColumnDesign& c) { return c.field == field; });
    return found == columns.end() ? nullptr : &*found;
}

ColumnDesign* Design::column(std::string_view field) {
    return const_cast<ColumnDesign*>(std::as_const(*this).column(field));
}

}  // namespace jollyrow
