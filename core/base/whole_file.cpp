// SPDX-License-Identifier: MIT
// Covered by tests/design/design_test.cpp.
#include "core/base/whole_file.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <filesystem>
#include <fstream>

namespace jollyrow {
namespace {

Error systemError(const std::string& what, const std::string& path) {
    const ErrorCode code = errno == ENOSPC || errno == EDQUOT || errno == EFBIG ? ErrorCode::DiskFull
                           : errno == ENOENT                                    ? ErrorCode::NotFound
                           : errno == EACCES || errno == EROFS                  ? ErrorCode::ReadOnly
                                                                                : ErrorCode::Io;
    return {code, fmt::format("{} {} failed: {}.", what, path, std::strerror(errno))};
}

}  // namespace

Result<std::string> readWholeFile(const std::string& path, std::size_t mostMiB, const std::string& what) {
    errno = 0;
    std::error_code ignored;
    if (std::filesystem::is_directory(path, ignored))
        return Error{ErrorCode::InvalidInput, fmt::format("{} is a folder, not {}.", path, what)};
    if (std::filesystem::exists(path, ignored) && !std::filesystem::is_regular_file(path, ignored))
        return Error{ErrorCode::InvalidInput, fmt::format("{} is a pipe or device, not {}.", path, what)};
    std::ifstream file(path, std::ios::binary);
    if (!file) return systemError("Opening", path);
    const std::size_t most = mostMiB << 20;
    // In pieces: room for the most that may be is much for a small file, and a file may grow while it is read.
    constexpr std::size_t kPiece = std::size_t{1} << 20;
    std::string text;
    while (file && text.size() <= most) {
        const std::size_t before = text.size();
        text.resize(std::min(most + 1, before + kPiece));
        file.read(text.data() + before, static_cast<std::streamsize>(text.size() - before));
        text.resize(before + static_cast<std::size_t>(file.gcount()));
    }
    if (text.size() > most)
        return Error{ErrorCode::InvalidInput,
                     fmt::format("{} is larger than {} MiB, which is not {}.", path, mostMiB, what)};
    return text;
}

Result<void> replaceFile(const std::string& path, const std::string& text) {
    // Through a link, so that the file it names is replaced and not the link.
    std::error_code ignored;
    const std::filesystem::path real = std::filesystem::is_symlink(path, ignored)
                                           ? std::filesystem::weakly_canonical(path, ignored)
                                           : std::filesystem::path(path);
    std::string beside = real.string() + ".XXXXXX";
    const int handle = mkstemp(beside.data());
    if (handle < 0) return systemError("Writing", path);
    const auto giveUp = [&]() -> Error {
        Error error = systemError("Writing", path);
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

}  // namespace jollyrow
