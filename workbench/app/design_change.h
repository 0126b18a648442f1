// SPDX-License-Identifier: MIT
#pragma once

#include <functional>

#include "core/design/design.h"

namespace jollyrow {

/// What an editor makes of the parts of a design that it works on; whatever else the design has become meanwhile stays.
using DesignChange = std::function<void(Design&)>;

/// Groups, summaries, and how the grid shows them, as they are in `from`.
DesignChange groupingOf(const Design& from);

}  // namespace jollyrow
