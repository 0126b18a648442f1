// SPDX-License-Identifier: MIT
#pragma once
// What the parts of a design file have in common: names of enumerations, writing what is not the default, formats.
// Inside of the design room.

#include <algorithm>
#include <array>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "core/design/design.h"
#include "core/design/object_reader.h"
#include "core/design/source_json.h"

namespace jollyrow {

inline constexpr std::array<EnumName<Alignment>, 4> kAlignments = {{{Alignment::Automatic, "automatic"},
                                                                    {Alignment::Left, "left"},
                                                                    {Alignment::Center, "center"},
                                                                    {Alignment::Right, "right"}}};
inline constexpr std::array<EnumName<WidthMode>, 3> kWidthModes = {
    {{WidthMode::Fixed, "fixed"}, {WidthMode::Fit, "fit"}, {WidthMode::Share, "share"}}};
inline constexpr std::array<EnumName<LineWeight>, 4> kLineWeights = {{{LineWeight::Theme, "theme"},
                                                                      {LineWeight::Regular, "regular"},
                                                                      {LineWeight::Medium, "medium"},
                                                                      {LineWeight::Bold, "bold"}}};
template <class Names, class E>
std::string nameOf(const Names& names, E value) {
    for (const auto& entry : names)
        if (entry.value == value) return std::string(entry.name);
    return {};
}

/// Writes a value that is not the default.
template <class T>
void put(nlohmann::ordered_json& out, const char* key, const T& value, const T& usual) {
    if (!(value == usual)) out[key] = value;
}
template <class E, std::size_t N>
void put(nlohmann::ordered_json& out, const char* key, E value, E usual, const std::array<EnumName<E>, N>& names) {
    if (value != usual) out[key] = nameOf(names, value);
}

/// Calls take(object, where, leaveOut) for each object of a list, at most `most`; what is none, and what `leaveOut`
/// says, becomes a finding.
template <class Take>
void forEachObject(ObjectReader& reader, const char* key, std::size_t most, std::vector<Finding>& findings,
                   const Take& take) {
    const nlohmann::ordered_json* list = reader.array(key);
    for (std::size_t i = 0; list && i < std::min(list->size(), most); ++i) {
        const std::string where = fmt::format("{}/{}", reader.path(key), i);
        const auto leaveOut = [&](const std::string& why) {
            findings.push_back({Severity::Problem, where, fmt::format("{} {}; it is left out.", where, why), ""});
        };
        (*list)[i].is_object() ? take((*list)[i], where, leaveOut) : leaveOut("is not an object");
    }
    if (list && list->size() > most)
        findings.push_back({Severity::Problem, key,
                            fmt::format("{} has {} entries; those past {} are left out.", key, list->size(), most),
                            ""});
}

nlohmann::ordered_json jsonOf(const FormatSpec& format);
/// The "format" of an object; the default where there is none.
void readFormat(ObjectReader& reader, FormatSpec& format, std::vector<Finding>& findings);

}  // namespace jollyrow
