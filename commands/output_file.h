// SPDX-License-Identifier: MIT
#pragma once
// Where a verb may write: only over files of its own kind, unless it is told to; never over a device, and never half.

#include <functional>
#include <string>

#include "core/base/result.h"

namespace jollyrow::commands {

enum class OutputKind {
    Design,    ///< a .jrow file
    Picture,   ///< a PNG
    Boatyard,  ///< the demo's database
};

/// The file to write for `path`: what a link leads to. Fails when it is a folder, device, pipe or socket, or a file of
/// another kind and `force` is off.
Result<std::string> outputFile(const std::string& path, OutputKind kind, bool force);
/// Lets `write` make a file beside `path` and renames it when it is whole; nothing is left when it fails.
Result<void> writeWhole(const std::string& path, const std::function<Result<void>(const std::string& beside)>& write);

}  // namespace jollyrow::commands
