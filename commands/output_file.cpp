// SPDX-License-Identifier: MIT
// Covered by tests/commands/tst_outputs.cpp.
#include "commands/output_file.h"

#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <cerrno>
#include <cstdio>
#include <cstring>
#include <filesystem>
#include <fstream>

#include "core/design/design_file.h"
#include "core/sources/source.h"

namespace jollyrow::commands {
namespace {

const char* nameOf(OutputKind kind) {
    switch (kind) {
        case OutputKind::Design: return "a design";
        case OutputKind::Picture: return "a PNG picture";
        case OutputKind::Boatyard: return "the demo's database";
    }
    return "";
}

bool isBoatyard(const std::string& path) {
    const auto source = openSource(path);
    const auto tables = source ? (*source)->tables() : Result<std::vector<TableSummary>>(source.error());
    if (!tables) return false;
    const auto has = [&](const char* name) {
        return std::any_of(tables->begin(), tables->end(), [name](const TableSummary& t) { return t.name == name; });
    };
    return has("owners") && has("vessels") && has("berths") && has("jobs") && has("job_lines");
}

bool isOfKind(const std::string& path, OutputKind kind) {
    std::array<char, 8> head{};
    std::ifstream(path, std::ios::binary).read(head.data(), head.size());
    switch (kind) {
        case OutputKind::Design: return readDesignFile(path).ok();
        case OutputKind::Picture: return std::string_view(head.data(), head.size()) == "\x89PNG\r\n\x1a\n";
        case OutputKind::Boatyard: return isBoatyard(path);
    }
    return false;
}

}  // namespace

Result<std::string> outputFile(const std::string& path, OutputKind kind, bool force) {
    std::error_code failure, ignored;
    std::string real = path;
    if (std::filesystem::is_symlink(path, ignored)) real = std::filesystem::weakly_canonical(path, failure).string();
    if (failure) return Error{ErrorCode::Io, fmt::format("{} cannot be written: {}.", path, failure.message())};
    struct stat info {};
    if (stat(real.c_str(), &info) != 0) {
        if (errno == ENOENT) return real;
        return Error{ErrorCode::Io, fmt::format("{} cannot be written: {}.", path, std::strerror(errno))};
    }
    if (S_ISDIR(info.st_mode))
        return Error{ErrorCode::InvalidInput, fmt::format("{} is a folder. Name a file in it.", path)};
    if (!S_ISREG(info.st_mode))
        return Error{ErrorCode::InvalidInput,
                     fmt::format("{} is a device or pipe; this is written to files only.", path)};
    if (!force && info.st_size != 0 && !isOfKind(real, kind))
        return Error{
            ErrorCode::InvalidInput,
            fmt::format("{} exists and is not {}. Give another name, or --force to replace it.", path, nameOf(kind))};
    return real;
}

Result<void> writeWhole(const std::string& path, const std::function<Result<void>(const std::string&)>& write) {
    const std::string beside = fmt::format("{}.{}.part", path, getpid());
    auto done = write(beside);
    if (done && std::rename(beside.c_str(), path.c_str()) != 0)
        done = Error{ErrorCode::Io, fmt::format("Writing {} failed: {}.", path, std::strerror(errno))};
    if (!done) std::remove(beside.c_str());
    return done;
}

}  // namespace jollyrow::commands
