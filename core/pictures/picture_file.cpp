// SPDX-License-Identifier: MIT
// Covered by tests/pictures/picture_test.cpp.
#include "core/pictures/picture_file.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>
#include <filesystem>

#include "core/pictures/picture_kind.h"

namespace jollyrow {
namespace {

Result<std::string> readPlainFile(const std::string& path) {
    // Without O_NONBLOCK, opening a pipe would wait for a writer.
    const int file = ::open(path.c_str(), O_RDONLY | O_NONBLOCK | O_CLOEXEC);
    if (file < 0)
        return Error{errno == ENOENT ? ErrorCode::NotFound : ErrorCode::Io,
                     fmt::format("{} cannot be read: {}.", path, std::strerror(errno))};
    struct Closing {
        int file;
        ~Closing() { ::close(file); }
    } closing{file};
    struct stat about {};
    if (::fstat(file, &about) != 0 || !S_ISREG(about.st_mode))
        return Error{ErrorCode::Refused, fmt::format("{} is no plain file.", path)};
    if (static_cast<std::size_t>(about.st_size) > kMostPictureBytes)
        return Error{ErrorCode::Refused,
                     fmt::format("{} is {:.0f} MB long; more than {} MB are not shown.", path,
                                 static_cast<double>(about.st_size) / 1e6, kMostPictureBytes / 1'000'000)};
    std::string bytes(static_cast<std::size_t>(about.st_size), '\0');
    std::size_t at = 0;
    while (at < bytes.size()) {
        const ssize_t got = ::read(file, bytes.data() + at, bytes.size() - at);
        if (got < 0 && errno == EINTR) continue;
        if (got < 0) return Error{ErrorCode::Io, fmt::format("{} cannot be read: {}.", path, std::strerror(errno))};
        if (got == 0) break;  // it has become shorter meanwhile
        at += static_cast<std::size_t>(got);
    }
    bytes.resize(at);
    return bytes;
}

/// Letters, figures and - _ of the name without its ending; "picture" where nothing is left.
std::string harmless(std::string_view wished) {
    constexpr std::size_t kMostBytes = 60;
    wished = wished.substr(wished.find_last_of('/') + 1);
    wished = wished.substr(0, wished.find_last_of('.'));
    std::string name;
    for (const char c : wished.substr(0, kMostBytes)) {
        const bool isKept =
            (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '-' || c == '_';
        if (isKept)
            name += c;
        else if (!name.empty() && name.back() != '-')
            name += '-';
    }
    while (!name.empty() && name.back() == '-') name.pop_back();
    return name.empty() ? "picture" : name;
}

/// False when a file of the name is there.
Result<bool> writeNewFile(const std::string& path, const std::string& bytes) {
    const int file = ::open(path.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_NOFOLLOW | O_CLOEXEC, 0644);
    if (file < 0 && errno == EEXIST) return false;
    const auto failed = [&] {
        return Error{errno == ENOSPC ? ErrorCode::DiskFull : ErrorCode::Io,
                     fmt::format("{} cannot be written: {}.", path, std::strerror(errno))};
    };
    if (file < 0) return failed();
    std::size_t at = 0;
    while (at < bytes.size()) {
        const ssize_t put = ::write(file, bytes.data() + at, bytes.size() - at);
        if (put < 0 && errno == EINTR) continue;
        if (put < 0) break;
        at += static_cast<std::size_t>(put);
    }
    if (at == bytes.size() && ::fsync(file) == 0) return ::close(file), true;
    const Error error = failed();
    ::close(file);
    ::unlink(path.c_str());  // half a picture is none
    return error;
}

}  // namespace

Result<std::string> readPictureFile(const std::string& folder, const std::string& named) {
    namespace fs = std::filesystem;
    std::error_code failure;
    const fs::path root = fs::canonical(folder, failure);
    if (failure) return Error{ErrorCode::NotFound, fmt::format("The folder of the pictures, {}, is missing.", folder)};
    const fs::path path = fs::weakly_canonical(root / fs::path(named), failure);
    const fs::path within = failure ? fs::path() : path.lexically_relative(root);
    if (within.empty() || *within.begin() == ".." || fs::path(named).is_absolute() ||
        named.find('\0') != std::string::npos)
        return Error{ErrorCode::Refused,
                     fmt::format("\"{}\" leads out of the folder of the pictures, {}.", named, folder)};
    return readPlainFile(path.string());
}

Result<std::string> keepPictureFile(const std::string& folder, const std::string& wished, const std::string& bytes) {
    constexpr int kMostTried = 1000;
    const auto kind = pictureKind(bytes);
    if (!kind) return Error{ErrorCode::InvalidInput, "What was chosen is no picture: it is neither PNG, JPEG nor SVG."};
    std::error_code failure;
    std::filesystem::create_directories(folder, failure);
    if (failure)
        return Error{ErrorCode::Io,
                     fmt::format("The folder of the pictures, {}, cannot be made: {}.", folder, failure.message())};
    const char* ending = *kind == PictureKind::Png ? ".png" : *kind == PictureKind::Jpeg ? ".jpg" : ".svg";
    const std::string stem = harmless(wished);
    for (int n = 1; n <= kMostTried; ++n) {
        const std::string name = n == 1 ? stem + ending : fmt::format("{}-{}{}", stem, n, ending);
        const std::string path = (std::filesystem::path(folder) / name).string();
        const auto isNew = writeNewFile(path, bytes);
        if (!isNew) return isNew.error();
        if (*isNew) return name;
        const auto there = readPlainFile(path);
        if (there && *there == bytes) return name;
    }
    return Error{ErrorCode::Refused, fmt::format("{} has {} pictures called {}.", folder, kMostTried, stem)};
}

Result<std::string> readChosenPicture(const std::string& path) {
    auto bytes = readPlainFile(path);
    if (bytes && !pictureKind(*bytes))
        return Error{ErrorCode::InvalidInput, fmt::format("{} is no picture: it is neither PNG, JPEG nor SVG.", path)};
    return bytes;
}

}  // namespace jollyrow
