// SPDX-License-Identifier: MIT
#pragma once
// Where records are: the path of a file, or the address of a server as a URI (RFC 3986, "postgresql://…").

#include <string>
#include <string_view>

namespace jollyrow {

/// Not a file: paths are never resolved, normalised or looked for.
bool isServerAddress(std::string_view address);
/// SourceDesign::kind of it: "postgresql", or "sqlite" of any file.
std::string sourceKindOf(std::string_view address);
/// For titles: the file's name, or "kelpie at yard.example".
std::string sourceNameOf(std::string_view address);

}  // namespace jollyrow
