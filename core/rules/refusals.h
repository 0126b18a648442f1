// SPDX-License-Identifier: MIT
#pragma once
// What is known elsewhere and not part of rules, by name: what to say of it, and what there is in its place.

#include <string_view>

#include "core/rules/lexer.h"

namespace jollyrow {

/// A sentence about the construct that begins with this token; "" when it begins none that is known. `next` is the
/// token behind it.
std::string_view refusalOf(const Token& token, const Token& next);

}  // namespace jollyrow
