// SPDX-License-Identifier: MIT
#include "core/design/design_file.h"

#include <fmt/format.h>

#include <filesystem>

#include "core/base/source_address.h"
#include "core/base/whole_file.h"

namespace jollyrow {

Result<ReadDesign> readDesignFile(const std::string& path) {
    auto text = readWholeFile(path, 16, "a design file");
    if (!text) return text.error();
    auto read = designFromJson(*text);
    if (!read) {
        Error error = read.error();
        error.message = fmt::format("{}: {}", path, error.message);
        return error;
    }
    return read;
}

Result<void> writeDesignFile(const std::string& path, const Design& design) {
    return replaceFile(path, toJson(design));
}

std::string resolvedSourcePath(const Design& design, const std::string& designPath) {
    if (isServerAddress(design.source.path)) return design.source.path;
    const std::filesystem::path path(design.source.path);
    if (path.empty() || path.is_absolute() || designPath.empty()) return path.string();
    return (std::filesystem::absolute(designPath).parent_path() / path).lexically_normal().string();
}

std::string storedSourcePath(const std::string& sourcePath, const std::string& designPath) {
    if (designPath.empty() || sourcePath.empty() || isServerAddress(sourcePath)) return sourcePath;
    const auto folder = std::filesystem::absolute(designPath).parent_path().lexically_normal();
    const auto relative = std::filesystem::absolute(sourcePath).lexically_normal().lexically_relative(folder);
    return relative.empty() || *relative.begin() == ".."
               ? std::filesystem::absolute(sourcePath).lexically_normal().string()
               : relative.string();
}

}  // namespace jollyrow
