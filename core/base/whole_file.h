// SPDX-License-Identifier: MIT
#pragma once
// Files that are read and written whole: designs, looks.

#include <string>

#include "core/base/result.h"

namespace jollyrow {

/// Fails for what is no plain file, is larger than `mostMiB`, or cannot be read. `what` names it in messages: "a design
/// file".
Result<std::string> readWholeFile(const std::string& path, std::size_t mostMiB, const std::string& what);
/// All or nothing: written beside, flushed to disk, then renamed over the old one; through a link, so that the file it
/// names is replaced and not the link.
Result<void> replaceFile(const std::string& path, const std::string& text);

}  // namespace jollyrow
