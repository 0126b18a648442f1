// SPDX-License-Identifier: MIT
// Covered by tests/session/draft_file_test.cpp and drafts_kill_test.cpp.
#include "core/editing/draft_file.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstdlib>
#include <cstring>
#include <filesystem>

#include "core/base/whole_file.h"
#include "core/editing/value_json.h"

namespace jollyrow {
namespace {

using Json = nlohmann::json;
namespace fs = std::filesystem;

constexpr int kVersion = 1;
constexpr std::string_view kEnding = ".drafts";

Error failure(std::string_view doing) {
    const int number = errno;
    const ErrorCode code = number == ENOSPC || number == EDQUOT || number == EFBIG  ? ErrorCode::DiskFull
                           : number == EACCES || number == EROFS || number == EPERM ? ErrorCode::ReadOnly
                                                                                    : ErrorCode::Io;
    return {code, fmt::format("{} failed: {}. What is typed is not safe from a crash until it is saved.", doing,
                              std::strerror(number))};
}

std::string line(const Json& json) {
    const std::string text = json.dump(-1, ' ', false, Json::error_handler_t::replace);
    return fmt::format("{:016x} {}\n", digestOf(text), text);
}

/// The text of a line whose checksum is right.
std::optional<Json> jsonOfLine(std::string_view line) {
    constexpr std::size_t kSum = 17;
    if (line.size() <= kSum || line[kSum - 1] != ' ') return std::nullopt;
    const std::string_view text = line.substr(kSum);
    if (fmt::format("{:016x}", digestOf(text)) != line.substr(0, kSum - 1)) return std::nullopt;
    Json json = Json::parse(text, nullptr, false);
    return json.is_object() ? std::optional(std::move(json)) : std::nullopt;
}

Json keyJson(const RecordKey& key) {
    Json json = Json::array();
    for (const Value& part : key) json.push_back(jsonOf(part));
    return json;
}

Json jsonOf(const KeptRecord& record) {
    Json cells = Json::array();
    for (const KeptCell& cell : record.cells) {
        Json& out = cells.emplace_back(Json{{"field", cell.field},
                                            {"value", jsonOf(cell.value)},
                                            {"original", jsonOf(cell.original)},
                                            {"label", jsonOf(Value(cell.label))}});
        for (const Value& sent : cell.sent) out["sent"].push_back(jsonOf(sent));
    }
    return {{"record", record.id},
            {"change", static_cast<int>(record.change)},
            {"key", keyJson(record.key)},
            {"cells", std::move(cells)},
            {"when", record.when}};
}

/// {"record": id, "made": key}: the key that a new record will have; "" for another line.
std::string madeIn(const Json& json, RecordKey& key) {
    const auto made = json.find("made");
    if (made == json.end() || !made->is_array() || !json.contains("record") || !json["record"].is_string()) return {};
    for (const Json& part : *made)
        if (auto value = valueFrom(part)) key.push_back(std::move(*value));
    return json["record"].get<std::string>();
}

std::optional<KeptRecord> recordFrom(const Json& json) {
    const auto list = [&](const char* name) {
        const auto found = json.find(name);
        return found != json.end() && found->is_array() ? &*found : nullptr;
    };
    const Json *key = list("key"), *cells = list("cells");
    if (!key || !cells || !json.contains("record") || !json["record"].is_string() || !json.contains("change") ||
        !json["change"].is_number_integer())
        return std::nullopt;
    KeptRecord record;
    record.id = json["record"].get<std::string>();
    const auto change = json["change"].get<std::int64_t>();
    if (change < 0 || change > static_cast<int>(RecordChange::Delete)) return std::nullopt;
    record.change = static_cast<RecordChange>(change);
    if (json.contains("when") && json["when"].is_number_integer()) record.when = json["when"].get<std::int64_t>();
    for (const Json& part : *key) {
        auto value = valueFrom(part);
        if (!value) return std::nullopt;
        record.key.push_back(std::move(*value));
    }
    for (const Json& cell : *cells) {
        if (!cell.is_object() || !cell.contains("field") || !cell["field"].is_string()) return std::nullopt;
        auto value = valueFrom(cell.value("value", Json())), original = valueFrom(cell.value("original", Json()));
        const auto label = valueFrom(cell.value("label", Json()));
        if (!value || !original) return std::nullopt;
        KeptCell kept{cell["field"].get<std::string>(), std::move(*value), std::move(*original)};
        if (label && std::holds_alternative<std::string>(*label)) kept.label = std::get<std::string>(*label);
        for (const Json& sent : cell.value("sent", Json::array()))
            if (auto one = valueFrom(sent)) kept.sent.push_back(std::move(*one));
        record.cells.push_back(std::move(kept));
    }
    return record;
}

Json headerOf(const std::string& source, const std::string& table) {
    return {{"jollyrowDrafts", kVersion}, {"source", jsonOf(Value(source))}, {"table", jsonOf(Value(table))}};
}

/// What a file says; unsettled records in the order in which they were begun.
KeptDrafts readLines(std::string_view text) {
    KeptDrafts drafts;
    std::map<std::string, std::size_t> places;
    std::map<std::string, RecordKey> made;
    std::vector<KeptRecord> records;
    while (!text.empty()) {
        const std::size_t end = text.find('\n');
        if (end == std::string_view::npos) break;  // torn: never counted as kept
        const auto json = jsonOfLine(text.substr(0, end));
        text.remove_prefix(end + 1);
        RecordKey key;
        if (const std::string id = json ? madeIn(*json, key) : std::string(); !id.empty()) {
            made[id] = std::move(key);
            continue;
        }
        auto record = json ? recordFrom(*json) : std::nullopt;
        if (!record) {
            ++drafts.unreadable;
            continue;
        }
        const auto place = places.try_emplace(record->id, records.size());
        if (place.second)
            records.push_back(std::move(*record));
        else
            records[place.first->second] = std::move(*record);
    }
    std::erase_if(records, [](const KeptRecord& record) { return record.isSettled(); });
    for (KeptRecord& record : records)
        if (const auto known = made.find(record.id); known != made.end()) record.made = known->second;
    drafts.records = std::move(records);
    return drafts;
}

bool isLocked(int handle) { return flock(handle, LOCK_EX | LOCK_NB) != 0; }

/// What sessions that run no more have left for the same records. The files are handed back, to be removed when their
/// contents are kept anew; damaged ones are set aside, for whoever wants to look.
std::vector<std::string> collect(const std::string& folder, const std::string& header, KeptDrafts& left) {
    std::vector<std::string> taken;
    std::error_code failed;
    for (const fs::directory_entry& entry : fs::directory_iterator(folder, failed)) {
        const std::string path = entry.path().string();
        if (entry.path().extension() != kEnding || !entry.is_regular_file(failed)) continue;
        const int handle = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NOFOLLOW);
        if (handle < 0) continue;
        const bool isAnothers = isLocked(handle);
        const auto text = isAnothers ? Result<std::string>(Error{}) : readWholeFile(path, 512, "a file of drafts");
        ::close(handle);  // which unlocks it
        if (!text || !text->starts_with(header)) continue;
        KeptDrafts drafts = readLines(std::string_view(*text).substr(header.size()));
        for (KeptRecord& record : drafts.records) {
            record.id = fmt::format("{}/{}", taken.size(), record.id);
            left.records.push_back(std::move(record));
        }
        left.unreadable += drafts.unreadable;
        if (drafts.unreadable != 0)
            fs::copy_file(path, path + ".damaged", fs::copy_options::overwrite_existing, failed);
        taken.push_back(path);
    }
    return taken;
}

}  // namespace

DraftFile::~DraftFile() { close(); }

DraftFile::DraftFile(DraftFile&& other) noexcept { *this = std::move(other); }

DraftFile& DraftFile::operator=(DraftFile&& other) noexcept {
    if (this == &other) return *this;
    close();
    handle_ = std::exchange(other.handle_, -1);
    path_ = std::move(other.path_);
    header_ = std::move(other.header_);
    bytes_ = other.bytes_;
    live_ = std::move(other.live_);
    made_ = std::move(other.made_);
    return *this;
}

Result<DraftFile> DraftFile::open(const std::string& folder, const std::string& source, const std::string& table,
                                  KeptDrafts& left) {
    std::error_code failed;
    fs::create_directories(folder, failed);
    if (!fs::is_directory(folder)) {
        errno = failed ? failed.value() : ENOTDIR;
        return failure(fmt::format("Making {}", folder));
    }
    ::chmod(folder.c_str(), 0700);
    DraftFile file;
    file.header_ = line(headerOf(source, table));
    const std::vector<std::string> taken = collect(folder, file.header_, left);
    constexpr int kMostTried = 1000;
    const std::string name = fmt::format("{}/{:016x}", folder, digestOf(file.header_));
    for (int n = 0; n < kMostTried && file.handle_ < 0; ++n) {
        file.path_ = fmt::format("{}-{}-{}{}", name, getpid(), n, kEnding);
        file.handle_ = ::open(file.path_.c_str(), O_RDWR | O_CREAT | O_EXCL | O_APPEND | O_CLOEXEC, 0600);
        if (file.handle_ < 0 && errno != EEXIST) return failure(fmt::format("Writing {}", file.path_));
    }
    if (file.handle_ < 0 || isLocked(file.handle_)) return failure(fmt::format("Writing {}", file.path_));
    if (auto begun = file.append(file.header_); !begun) return begun.error();
    if (auto kept = file.keep(left.records); !kept) return kept.error();
    for (const KeptRecord& record : left.records)
        if (!record.made.empty())
            if (auto noted = file.noteMade(record.id, record.made); !noted) return noted.error();
    for (const std::string& path : taken) fs::remove(path, failed);
    return file;
}

Result<void> DraftFile::append(std::string_view lines) {
    for (std::size_t written = 0; written < lines.size();) {
        const ssize_t got = ::write(handle_, lines.data() + written, lines.size() - written);
        if (got < 0 && errno == EINTR) continue;
        if (got <= 0) {
            Error error = failure(fmt::format("Writing {}", path_));
            // A part of a line would spoil what comes behind it.
            if (::ftruncate(handle_, static_cast<off_t>(bytes_)) != 0) error.message += " The file may be damaged.";
            return error;
        }
        written += static_cast<std::size_t>(got);
    }
    if (::fdatasync(handle_) != 0) return failure(fmt::format("Writing {}", path_));
    bytes_ += lines.size();
    return {};
}

Result<void> DraftFile::keep(const std::vector<KeptRecord>& records) {
    if (handle_ < 0) return Error{ErrorCode::Io, "No file of drafts is open."};
    std::string lines;
    auto live = live_;
    for (const KeptRecord& record : records) {
        if (record.isSettled() && !live.contains(record.id)) continue;
        std::string text = line(jsonOf(record));
        lines += text;
        record.isSettled() ? void(live.erase(record.id)) : void(live[record.id] = std::move(text));
    }
    if (lines.empty()) return {};
    if (bytes_ + lines.size() > kMostBytes)
        return Error{ErrorCode::DiskFull,
                     fmt::format("{} would be larger than {} MiB. What is typed is not safe from a "
                                 "crash until it is saved.",
                                 path_, kMostBytes >> 20)};
    if (auto written = append(lines); !written) return written;
    live_ = std::move(live);
    std::size_t needed = header_.size();
    for (const auto& [id, text] : live_) needed += text.size();
    constexpr std::size_t kSmall = 1 << 20;
    return bytes_ > kSmall && bytes_ > 4 * needed ? rewrite() : Result<void>();
}

Result<void> DraftFile::noteMade(const std::string& id, const RecordKey& key) {
    if (handle_ < 0 || !live_.contains(id)) return {};
    std::string text = line({{"record", id}, {"made", keyJson(key)}});
    auto written = append(text);
    if (written) made_[id] = std::move(text);
    return written;
}

/// Only what is unsaved. The file keeps its name and is replaced in one step.
Result<void> DraftFile::rewrite() {
    const std::string beside = path_ + ".new";
    const int handle = ::open(beside.c_str(), O_RDWR | O_CREAT | O_TRUNC | O_APPEND | O_CLOEXEC, 0600);
    if (handle < 0) return {};  // it grows on, and is tried again
    const int old = std::exchange(handle_, handle);
    const std::size_t bytes = std::exchange(bytes_, 0);
    std::string lines = header_;
    for (const auto& [id, text] : live_) lines += text;
    std::erase_if(made_, [this](const auto& line) { return !live_.contains(line.first); });
    for (const auto& [id, text] : made_) lines += text;
    const auto written = isLocked(handle_) ? Result<void>(failure("Writing")) : append(lines);
    if (written && ::rename(beside.c_str(), path_.c_str()) == 0) {
        ::close(old);
        return {};
    }
    ::close(std::exchange(handle_, old));
    ::unlink(beside.c_str());
    bytes_ = bytes;
    return {};
}

void DraftFile::close() {
    if (handle_ < 0) return;
    if (live_.empty()) ::unlink(path_.c_str());
    ::close(std::exchange(handle_, -1));
}

std::string stateFolder() {
    const char* state = std::getenv("XDG_STATE_HOME");
    if (state && state[0] == '/') return std::string(state) + "/jollyrow";
    const char* home = std::getenv("HOME");
    return home && home[0] == '/' ? std::string(home) + "/.local/state/jollyrow" : std::string();
}

}  // namespace jollyrow
