// SPDX-License-Identifier: MIT
#include "core/design/design_file.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>

#include <array>
#include <cerrno>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>
#include <set>

#include "core/base/near_name.h"

namespace jollyrow {
namespace {

using Json = nlohmann::ordered_json;

constexpr std::size_t kMaxFile = 16u << 20;
constexpr int kMaxDepth = 64;

template <class E>
struct EnumName {
    E value;
    std::string_view name;
};
constexpr std::array<EnumName<Alignment>, 4> kAlignments = {{{Alignment::Automatic, "automatic"},
                                                             {Alignment::Left, "left"},
                                                             {Alignment::Center, "center"},
                                                             {Alignment::Right, "right"}}};
constexpr std::array<EnumName<WidthMode>, 3> kWidthModes = {
    {{WidthMode::Fixed, "fixed"}, {WidthMode::Fit, "fit"}, {WidthMode::Share, "share"}}};
constexpr std::array<EnumName<Direction>, 2> kDirections = {
    {{Direction::Ascending, "ascending"}, {Direction::Descending, "descending"}}};
constexpr std::array<EnumName<Empties>, 2> kEmpties = {{{Empties::First, "first"}, {Empties::Last, "last"}}};

template <class Names, class E>
std::string nameOf(const Names& names, E value) {
    for (const auto& entry : names)
        if (entry.value == value) return std::string(entry.name);
    return {};
}

/// Writes what was unknown when the object was read back into it.
void addUnknown(Json& object, const std::string& unknown) {
    if (unknown.empty()) return;
    const Json kept = Json::parse(unknown, nullptr, false);
    if (!kept.is_object()) return;
    for (const auto& [key, value] : kept.items())
        if (!object.contains(key)) object[key] = value;
}

Json jsonOf(const ColumnDesign& column) {
    Json out = {
        {"field", column.field}, {"heading", column.heading}, {"shown", column.shown}, {"readOnly", column.readOnly}};
    out["alignment"] = nameOf(kAlignments, column.alignment);
    out["width"] = {{"mode", nameOf(kWidthModes, column.width.mode)},
                    {"pixels", column.width.pixels},
                    {"weight", column.width.weight},
                    {"minimum", column.width.minimum},
                    {"maximum", column.width.maximum}};
    addUnknown(out, column.unknown);
    return out;
}

/// Reads one object, noting every key it was asked for; the rest is unknown.
class ObjectReader {
  public:
    ObjectReader(const Json& object, std::string where, std::vector<Finding>& findings)
        : object_(object), where_(std::move(where)), findings_(findings) {}

    void read(const char* key, std::string& value) {
        if (const Json* found = find(key))
            found->is_string() ? void(value = found->get<std::string>()) : wrong(key, "a text");
    }
    void read(const char* key, bool& value) {
        if (const Json* found = find(key))
            found->is_boolean() ? void(value = found->get<bool>()) : wrong(key, "true or false");
    }
    void read(const char* key, int& value, int least, int most) {
        const Json* found = find(key);
        if (!found) return;
        const bool whole = found->is_number_integer();
        const auto number = whole ? found->get<std::int64_t>() : 0;
        if (!whole || number < least || number > most)
            return wrong(key, fmt::format("a whole number from {} to {}", least, most));
        value = static_cast<int>(number);
    }
    void read(const char* key, double& value, double least, double most) {
        const Json* found = find(key);
        if (!found) return;
        const double number = found->is_number() ? found->get<double>() : least - 1;
        if (!(number >= least && number <= most)) return wrong(key, fmt::format("a number from {} to {}", least, most));
        value = number;
    }
    template <class E, std::size_t N>
    void read(const char* key, E& value, const std::array<EnumName<E>, N>& names) {
        const Json* found = find(key);
        if (!found) return;
        std::string all;
        for (const auto& entry : names) {
            if (found->is_string() && found->get<std::string>() == entry.name) return void(value = entry.value);
            all += (all.empty() ? "" : ", ") + std::string(entry.name);
        }
        wrong(key, "one of " + all);
    }
    const Json* object(const char* key) {
        const Json* found = find(key);
        if (found && !found->is_object()) wrong(key, "an object");
        return found && found->is_object() ? found : nullptr;
    }
    const Json* array(const char* key) {
        const Json* found = find(key);
        if (found && !found->is_array()) wrong(key, "a list");
        return found && found->is_array() ? found : nullptr;
    }
    /// Reports the keys nobody asked for and returns them as JSON text, "" when there are none.
    std::string unknown() {
        Json kept = Json::object();
        const std::vector<std::string> known(asked_.begin(), asked_.end());
        for (const auto& [key, value] : object_.items()) {
            if (asked_.contains(key)) continue;
            kept[key] = value;
            const auto near = nearestName(key, known);
            findings_.push_back({Severity::Note, path(key),
                                 fmt::format("\"{}\" is not known to this version; it is kept and has no effect.{}",
                                             key, near ? fmt::format(" Did you mean \"{}\"?", *near) : ""),
                                 near.value_or("")});
        }
        return kept.empty() ? std::string{} : kept.dump();
    }
    std::string path(std::string_view key) const {
        return where_.empty() ? std::string(key) : where_ + "/" + std::string(key);
    }

  private:
    const Json* find(const char* key) {
        asked_.insert(key);
        const auto found = object_.find(key);
        return found == object_.end() ? nullptr : &*found;
    }
    void wrong(const char* key, const std::string& expected) {
        findings_.push_back({Severity::Warning, path(key),
                             fmt::format("{} must be {}; the default is used.", path(key), expected), ""});
    }
    const Json& object_;
    std::string where_;
    std::vector<Finding>& findings_;
    std::set<std::string> asked_;
};

ColumnDesign columnFrom(const Json& json, const std::string& where, std::vector<Finding>& findings) {
    ColumnDesign column;
    ObjectReader reader(json, where, findings);
    reader.read("field", column.field);
    column.heading = column.field;
    reader.read("heading", column.heading);
    reader.read("shown", column.shown);
    reader.read("readOnly", column.readOnly);
    reader.read("alignment", column.alignment, kAlignments);
    if (const Json* width = reader.object("width")) {
        ObjectReader inner(*width, reader.path("width"), findings);
        inner.read("mode", column.width.mode, kWidthModes);
        inner.read("pixels", column.width.pixels, Width::kLeastPixels, Width::kMostPixels);
        inner.read("weight", column.width.weight, 0.01, 1000.0);
        inner.read("minimum", column.width.minimum, Width::kLeastPixels, Width::kMostPixels);
        inner.read("maximum", column.width.maximum, 0, Width::kMostPixels);
        inner.unknown();
    }
    column.unknown = reader.unknown();
    return column;
}

void readColumns(const Json& list, Design& design, std::vector<Finding>& findings) {
    for (std::size_t i = 0; i < list.size(); ++i) {
        const std::string where = fmt::format("columns/{}", i);
        if (!list[i].is_object()) {
            findings.push_back({Severity::Problem, where, where + " is not an object; it is left out.", ""});
            continue;
        }
        ColumnDesign column = columnFrom(list[i], where, findings);
        if (column.field.empty())
            findings.push_back({Severity::Problem, where, where + " names no field; it is left out.", ""});
        else if (design.column(column.field))
            findings.push_back(
                {Severity::Warning, where, fmt::format("{} stands twice; the first is used.", column.field), ""});
        else
            design.columns.push_back(std::move(column));
    }
}

void readSort(const Json& list, Design& design, std::vector<Finding>& findings) {
    for (std::size_t i = 0; i < list.size(); ++i) {
        const std::string where = fmt::format("sort/{}", i);
        SortDesign key;
        if (list[i].is_object()) {
            ObjectReader reader(list[i], where, findings);
            reader.read("field", key.field);
            reader.read("direction", key.direction, kDirections);
            reader.read("empties", key.empties, kEmpties);
            reader.unknown();
        }
        if (key.field.empty())
            findings.push_back({Severity::Problem, where, where + " names no field; it is left out.", ""});
        else
            design.sort.push_back(key);
    }
}

/// JSON libraries recurse; refuse nesting that no design has before they see it.
bool tooDeep(std::string_view text) {
    int depth = 0;
    bool inString = false;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const char c = text[i];
        if (inString) {
            if (c == '\\')
                ++i;
            else if (c == '"')
                inString = false;
        } else if (c == '"') {
            inString = true;
        } else if (c == '{' || c == '[') {
            if (++depth > kMaxDepth) return true;
        } else if (c == '}' || c == ']') {
            --depth;
        }
    }
    return false;
}

std::string lineAndColumn(std::string_view text, std::size_t byte) {
    const std::string_view before = text.substr(0, std::min(byte, text.size()));
    const auto lines = std::count(before.begin(), before.end(), '\n') + 1;
    const std::size_t lastBreak = before.rfind('\n');
    return fmt::format("line {}, column {}", lines,
                       before.size() - (lastBreak == std::string_view::npos ? 0 : lastBreak + 1));
}

Error systemError(const std::string& what, const std::string& path) {
    const ErrorCode code = errno == ENOSPC || errno == EDQUOT || errno == EFBIG ? ErrorCode::DiskFull
                           : errno == ENOENT                                    ? ErrorCode::NotFound
                           : errno == EACCES || errno == EROFS                  ? ErrorCode::ReadOnly
                                                                                : ErrorCode::Io;
    return {code, fmt::format("{} {} failed: {}.", what, path, std::strerror(errno))};
}

}  // namespace

std::string_view name(Severity severity) {
    switch (severity) {
        case Severity::Note: return "note";
        case Severity::Warning: return "warning";
        case Severity::Problem: return "problem";
    }
    return {};
}

std::string toJson(const Design& design) {
    Json out = {{"jollyrow", design.version}, {"title", design.title}};
    out["source"] = {{"kind", design.source.kind}, {"path", design.source.path}, {"table", design.source.table}};
    if (!design.source.query.empty()) out["source"]["query"] = design.source.query;
    out["grid"] = {{"pinned", design.grid.pinned},
                   {"stripes", design.grid.stripes},
                   {"lines", design.grid.lines},
                   {"rowHeight", design.grid.rowHeight}};
    out["sort"] = Json::array();
    for (const SortDesign& key : design.sort)
        out["sort"].push_back({{"field", key.field},
                               {"direction", nameOf(kDirections, key.direction)},
                               {"empties", nameOf(kEmpties, key.empties)}});
    out["columns"] = Json::array();
    for (const ColumnDesign& column : design.columns) out["columns"].push_back(jsonOf(column));
    addUnknown(out, design.unknown);
    return out.dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
}

Result<ReadDesign> designFromJson(std::string_view text) {
    if (tooDeep(text))
        return Error{ErrorCode::InvalidInput,
                     fmt::format("This is not a design: it is nested deeper than {} levels.", kMaxDepth)};
    Json json;
    try {
        json = Json::parse(text);
    } catch (const Json::parse_error& failure) {
        const bool ended = failure.byte >= text.size();
        return Error{
            ErrorCode::InvalidInput,
            ended ? fmt::format("This file breaks off after {}: it is not whole. Take an earlier copy.",
                                lineAndColumn(text, text.size()))
                  : fmt::format("This is not a design file: it is not JSON at {}.", lineAndColumn(text, failure.byte)),
            TextRange{std::min<std::size_t>(failure.byte, text.size()), 1}};
    }
    if (!json.is_object() || !json.contains("jollyrow") || !json["jollyrow"].is_number_integer())
        return Error{ErrorCode::InvalidInput,
                     "This is JSON but not a design of this program: it has no \"jollyrow\" version number."};
    if (json["jollyrow"].get<std::int64_t>() > Design::kVersion)
        return Error{
            ErrorCode::Unsupported,
            fmt::format("This design is of version {}; this program knows versions up to {}. Open it with a newer one.",
                        json["jollyrow"].get<std::int64_t>(), Design::kVersion)};
    ReadDesign out;
    ObjectReader reader(json, "", out.findings);
    reader.read("jollyrow", out.design.version, 1, Design::kVersion);
    reader.read("title", out.design.title);
    if (const Json* source = reader.object("source")) {
        ObjectReader inner(*source, "source", out.findings);
        inner.read("kind", out.design.source.kind);
        inner.read("path", out.design.source.path);
        inner.read("table", out.design.source.table);
        inner.read("query", out.design.source.query);
        inner.unknown();
    }
    if (const Json* grid = reader.object("grid")) {
        ObjectReader inner(*grid, "grid", out.findings);
        inner.read("pinned", out.design.grid.pinned, 0, 1000);
        inner.read("stripes", out.design.grid.stripes);
        inner.read("lines", out.design.grid.lines);
        inner.read("rowHeight", out.design.grid.rowHeight, 16, 400);
        inner.unknown();
    }
    if (const Json* columns = reader.array("columns")) readColumns(*columns, out.design, out.findings);
    if (const Json* sort = reader.array("sort")) readSort(*sort, out.design, out.findings);
    out.design.unknown = reader.unknown();
    return out;
}

Result<ReadDesign> readDesignFile(const std::string& path) {
    errno = 0;
    std::error_code ignored;
    if (std::filesystem::is_directory(path, ignored))
        return Error{ErrorCode::InvalidInput, fmt::format("{} is a folder, not a design file.", path)};
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
