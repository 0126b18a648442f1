// SPDX-License-Identifier: MIT
#pragma once
// What the parts of a design file have in common: names of enumerations, writing what is not the default, formats.
// Inside of the design room.

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

nlohmann::ordered_json jsonOf(const FormatSpec& format);
/// The "format" of an object; the default where there is none.
void readFormat(ObjectReader& reader, FormatSpec& format, std::vector<Finding>& findings);

}  // namespace jollyrow
