// SPDX-License-Identifier: MIT
#pragma once
// How rules order texts: by the Unicode root collation (UTS #10), ties by bytes.

#include <string_view>

namespace jollyrow {

/// Negative, zero, positive. Any thread.
int compareTexts(std::string_view a, std::string_view b);

}  // namespace jollyrow
