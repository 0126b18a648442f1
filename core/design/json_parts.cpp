// SPDX-License-Identifier: MIT
#include "core/design/json_parts.h"

namespace jollyrow {
namespace {

constexpr std::array<EnumName<FormatStyle>, 6> kStyles = {{{FormatStyle::Automatic, "automatic"},
                                                           {FormatStyle::Pattern, "pattern"},
                                                           {FormatStyle::Message, "message"},
                                                           {FormatStyle::Words, "words"},
                                                           {FormatStyle::RelativeDays, "relativeDays"},
                                                           {FormatStyle::Duration, "duration"}}};
constexpr std::array<EnumName<DurationUnit>, 4> kUnits = {{{DurationUnit::Seconds, "seconds"},
                                                           {DurationUnit::Minutes, "minutes"},
                                                           {DurationUnit::Hours, "hours"},
                                                           {DurationUnit::Days, "days"}}};
}  // namespace

nlohmann::ordered_json jsonOf(const FormatSpec& format) {
    const FormatSpec usual;
    auto out = nlohmann::ordered_json::object();
    put(out, "style", format.style, usual.style, kStyles);
    put(out, "pattern", format.pattern, usual.pattern);
    put(out, "unit", format.unit, usual.unit, kUnits);
    put(out, "prefix", format.prefix, usual.prefix);
    put(out, "suffix", format.suffix, usual.suffix);
    put(out, "empty", format.empty, usual.empty);
    addUnknown(out, format.unknown);
    return out;
}

void readFormat(ObjectReader& reader, FormatSpec& format, std::vector<Finding>& findings) {
    const nlohmann::ordered_json* json = reader.object("format");
    if (!json) return;
    ObjectReader inner(*json, reader.path("format"), findings);
    inner.read("style", format.style, kStyles);
    inner.read("pattern", format.pattern);
    inner.read("unit", format.unit, kUnits);
    inner.read("prefix", format.prefix);
    inner.read("suffix", format.suffix);
    inner.read("empty", format.empty);
    format.unknown = inner.unknown();
}

}  // namespace jollyrow
