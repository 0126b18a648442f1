// SPDX-License-Identifier: MIT
#pragma once
// The design file (.jrow): JSON in a fixed order of keys, so that it can be compared line by line. Its schema is
// docs/formats/design.schema.json. Unknown keys are kept and reported; wrong values are replaced by the default and
// reported.

#include <string>
#include <string_view>
#include <vector>

#include "core/base/result.h"
#include "core/design/design.h"
#include "core/design/finding.h"

namespace jollyrow {

struct ReadDesign {
    Design design;
    std::vector<Finding> findings;
};

std::string toJson(const Design& design);
/// Fails when the text is not JSON, not a design, of a later version, or nested deeper than 64 levels. Any other
/// oddity is a finding.
Result<ReadDesign> designFromJson(std::string_view text);

/// Reads at most 16 MiB. Messages name the file.
Result<ReadDesign> readDesignFile(const std::string& path);
/// All or nothing: written beside, flushed to disk, then renamed over the old one.
Result<void> writeDesignFile(const std::string& path, const Design& design);
/// The source's path seen from the design file's folder.
std::string resolvedSourcePath(const Design& design, const std::string& designPath);
/// The path to write into a design kept at `designPath`: relative when the database is beside or below it.
std::string storedSourcePath(const std::string& sourcePath, const std::string& designPath);

}  // namespace jollyrow
