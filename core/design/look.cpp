// SPDX-License-Identifier: MIT
// Covered by tests/design/look_test.cpp.
#include "core/design/look.h"

#include <algorithm>

#include "core/base/whole_file.h"
#include "core/design/face.h"
#include "core/design/json_parts.h"
#include "core/design/look_json.h"

namespace jollyrow {
namespace {

using Json = nlohmann::ordered_json;

bool isLookColour(std::string_view name) {
    return std::find(kLookColours.begin(), kLookColours.end(), name) != kLookColours.end();
}

Json jsonOf(const std::map<std::string, std::string>& colours) {
    Json out = Json::object();
    for (const auto& [name, colour] : colours) out[name] = colour;
    return out;
}

/// Names that this version does not know are kept, and have no effect.
void readColours(const Json& json, const std::string& where, std::map<std::string, std::string>& colours,
                 std::vector<Finding>& findings) {
    for (const auto& [name, value] : json.items()) {
        if (!value.is_string() || !isColour(value.get<std::string>())) {
            findings.push_back({Severity::Warning, where + "/" + name,
                                fmt::format("{} is no colour; it is written like #1e7f78. The look's own is used.",
                                            value.dump().substr(0, 40)),
                                ""});
            continue;
        }
        if (!isLookColour(name)) {
            const auto near = nearestName(name, std::vector<std::string>(kLookColours.begin(), kLookColours.end()));
            findings.push_back({Severity::Note, where + "/" + name,
                                fmt::format("A look has no colour {}; it is kept and has no effect.{}", name,
                                            near ? fmt::format(" Did you mean {}?", *near) : ""),
                                ""});
        }
        colours.emplace(name, value.get<std::string>());
    }
}

}  // namespace

bool isReadyLook(std::string_view name) {
    return std::find(kReadyLooks.begin(), kReadyLooks.end(), name) != kReadyLooks.end();
}

Json jsonOf(const LookDesign& look) {
    Json out = {{"name", look.name}, {"base", look.base}};
    if (!look.light.empty()) out["light"] = jsonOf(look.light);
    if (!look.dark.empty()) out["dark"] = jsonOf(look.dark);
    addUnknown(out, look.unknown);
    return out;
}

LookDesign lookFrom(const Json& json, const std::string& where, std::vector<Finding>& findings) {
    LookDesign look;
    ObjectReader reader(json, where, findings);
    reader.read("name", look.name);
    reader.read("base", look.base);
    if (const Json* light = reader.object("light")) readColours(*light, reader.path("light"), look.light, findings);
    if (const Json* dark = reader.object("dark")) readColours(*dark, reader.path("dark"), look.dark, findings);
    look.unknown = reader.unknown();
    if (isReadyLook(look.base)) return look;
    findings.push_back({Severity::Warning, reader.path("base"),
                        fmt::format("There is no ready look {}; {} begins with yard.", look.base, look.name), ""});
    look.base = "yard";
    return look;
}

void readLooks(ObjectReader& design, std::vector<LookDesign>& looks, std::vector<Finding>& findings) {
    constexpr std::size_t kMost = 100;
    forEachObject(
        design, "looks", kMost, findings, [&](const Json& json, const std::string& where, const auto& leaveOut) {
            LookDesign look = lookFrom(json, where, findings);
            const bool known =
                isReadyLook(look.name) ||
                std::any_of(looks.begin(), looks.end(), [&](const LookDesign& l) { return l.name == look.name; });
            if (look.name.empty() || known)
                leaveOut(look.name.empty() ? "has no name" : fmt::format("has the name {} of another", look.name));
            else
                looks.push_back(std::move(look));
        });
}

Result<ReadLook> lookFromJson(std::string_view text) {
    constexpr int kMostDepth = 16;
    const Json json = Json::parse(
        text, [](int depth, Json::parse_event_t, Json&) { return depth <= kMostDepth; }, false);
    if (json.is_discarded() || !json.is_object() || !json.contains("jollyrowLook"))
        return Error{ErrorCode::InvalidInput, "This is no look file: it does not begin with \"jollyrowLook\": 1."};
    if (json["jollyrowLook"] != 1)
        return Error{ErrorCode::Unsupported, "This look file is of a later version of Jolly Row."};
    ReadLook out;
    Json look = json;
    look.erase("jollyrowLook");
    out.look = lookFrom(look, "look", out.findings);
    if (out.look.name.empty()) return Error{ErrorCode::InvalidInput, "The look in this file has no name."};
    return out;
}

std::string toJson(const LookDesign& look) {
    Json out = {{"jollyrowLook", 1}};
    const Json own = jsonOf(look);
    for (const auto& [key, value] : own.items()) out[key] = value;
    return out.dump(2) + "\n";
}

Result<ReadLook> readLookFile(const std::string& path) {
    const auto text = readWholeFile(path, 1, "a look file");
    if (!text) return text.error();
    auto read = lookFromJson(*text);
    if (read) return read;
    Error error = read.error();
    error.message = path + ": " + error.message;
    return error;
}

Result<void> writeLookFile(const std::string& path, const LookDesign& look) { return replaceFile(path, toJson(look)); }

}  // namespace jollyrow
