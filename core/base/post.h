// SPDX-License-Identifier: MIT
#pragma once

#include <functional>

namespace jollyrow {

/// Hands a function to the owner's thread, soon. Called from any thread.
using Post = std::function<void(std::function<void()>)>;

}  // namespace jollyrow
