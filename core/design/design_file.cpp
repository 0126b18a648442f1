// SPDX-License-Identifier: MIT
#include "core/design/design_file.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>
#include <filesystem>
#include <fstream>

namespace jollyrow {
namespace {

constexpr std::size_t kMaxFile = 16u << 20;

Error systemError(const std::string& what, const std::string& path) {
    const ErrorCode code = errno == ENOSPC || errno == EDQUOT || errno == EFBIG ? ErrorCode::DiskFull
                           : errno == ENOENT                                    ? ErrorCode::NotFound
                           : errno == EACCES || errno == EROFS                  ? ErrorCode::ReadOnly
                                                                                : ErrorCode::Io;
    return {code, fmt::format("{} {} failed: {}.", what, path, std::strerror(errno))};
}

}  // namespace

Result<ReadDesign> readDesignFile(const std::string& path) {
    errno = 0;
    std::error_code ignored;
    if (std::filesystem::is_directory(path, ignored))
        return Error{ErrorCode::InvalidInput, fmt::format("{} is a folder, not a design file.", path)};
    if (std::filesystem::exists(path, ignored) && !std::filesystem::is_regular_file(path, ignored))
        return Error{ErrorCode::InvalidInput, fmt::format("{} is a pipe or device, not a design file.", path)};
    std::ifstream file(path, std::ios::binary);
    if (!file) return systemError("Opening", path);
    std::string text(kMaxFile + 1, '\0');
    file.read(text.data(), static_cast<std::streamsize>(text.size()));
    text.resize(static_cast<std::size_t>(file.gcount()));
    if (text.size() > kMaxFile)
        return Error{ErrorCode::InvalidInput, fmt::format("{} is larger than 16 MiB; no design file is.", path)};
    auto read = designFromJson(text);
    if (!read) {
        Error error = read.error();
        error.message = fmt::format("{}: {}", path, error.message);
        return error;
    }
    return read;
}

Result<void> writeDesignFile(const std::string& path, const Design& design) {
    const std::string text = toJson(design);
    // Through a link, so that the file it names is replaced and not the link.
    std::error_code ignored;
    const std::filesystem::path real = std::filesystem::is_symlink(path, ignored)
                                           ? std::filesystem::weakly_canonical(path, ignored)
                                           : std::filesystem::path(path);
    std::string beside = real.string() + ".XXXXXX";
    const int handle = mkstemp(beside.data());
    if (handle < 0) return systemError("Writing", path);
    const auto giveUp = [&]() -> Error {
        const Error error = systemError("Writing", path);
        close(handle);
        unlink(beside.c_str());
        return error;
    };
    for (std::size_t written = 0; written < text.size();) {
        const ssize_t got = write(handle, text.data() + written, text.size() - written);
        if (got < 0 && errno == EINTR) continue;
        if (got < 0) return giveUp();
        written += static_cast<std::size_t>(got);
    }
    if (fchmod(handle, 0644) != 0 || fsync(handle) != 0) return giveUp();
    if (rename(beside.c_str(), real.c_str()) != 0) return giveUp();
    close(handle);
    return {};
}

std::string resolvedSourcePath(const Design& design, const std::string& designPath) {
    const std::filesystem::path path(design.source.path);
    if (path.empty() || path.is_absolute() || designPath.empty()) return path.string();
    return (std::filesystem::absolute(designPath).parent_path() / path).lexically_normal().string();
}

std::string storedSourcePath(const std::string& sourcePath, const std::string& designPath) {
    if (designPath.empty() || sourcePath.empty()) return sourcePath;
    const auto folder = std::filesystem::absolute(designPath).parent_path().lexically_normal();
    const auto relative = std::filesystem::absolute(sourcePath).lexically_normal().lexically_relative(folder);
    return relative.empty() || *relative.begin() == ".."
               ? std::filesystem::absolute(sourcePath).lexically_normal().string()
               : relative.string();
}

}  // namespace jollyrow
