// SPDX-License-Identifier: MIT
#include "core/columns/type.h"

#include <array>

namespace jollyrow {
namespace {
struct Names {
    Type type;
    std::string_view name;
    std::string_view article;
};
constexpr std::array<Names, 12> kNames = {{
    {Type::Boolean, "boolean", "yes or no"},
    {Type::Integer, "integer", "a whole number"},
    {Type::Decimal, "decimal", "an exact number"},
    {Type::Real, "real", "a number"},
    {Type::Text, "text", "a text"},
    {Type::Date, "date", "a date"},
    {Type::Time, "time", "a time of day"},
    {Type::Timestamp, "timestamp", "a date and time"},
    {Type::Binary, "binary", "binary data"},
    {Type::NumberList, "number list", "a list of numbers"},
    {Type::Instant, "timestamp with time zone", "a date and time with its zone"},
    {Type::Interval, "interval", "a span of time"},
}};
}  // namespace

std::string_view name(Type type) { return kNames[static_cast<std::size_t>(type)].name; }
std::string_view article(Type type) { return kNames[static_cast<std::size_t>(type)].article; }

std::optional<Type> typeFromName(std::string_view text) {
    for (const Names& entry : kNames)
        if (entry.name == text) return entry.type;
    return std::nullopt;
}

}  // namespace jollyrow
