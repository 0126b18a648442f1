// SPDX-License-Identifier: MIT
#include "core/columns/type.h"

#include <array>
#include <variant>

#include "core/columns/value.h"

namespace jollyrow {
namespace {
struct Names {
    Type type;
    std::string_view name;
    std::string_view article;
};
constexpr std::array<Names, 12> kTypeNames = {{
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

std::string_view name(Type type) { return kTypeNames[static_cast<std::size_t>(type)].name; }
std::string_view article(Type type) { return kTypeNames[static_cast<std::size_t>(type)].article; }

std::optional<Type> typeFromName(std::string_view text) {
    for (const Names& entry : kTypeNames)
        if (entry.name == text) return entry.type;
    return std::nullopt;
}

bool isOfType(const Value& value, Type type) {
    struct Holds {
        Type type;
        bool operator()(Empty) const { return true; }
        bool operator()(const Unfit&) const { return true; }
        bool operator()(bool) const { return type == Type::Boolean; }
        bool operator()(std::int64_t) const { return isNumber(type); }
        bool operator()(const Decimal&) const { return type == Type::Decimal; }
        bool operator()(const WideDecimal&) const { return type == Type::Decimal; }
        bool operator()(double) const { return type == Type::Real; }
        bool operator()(const std::string&) const { return isBytes(type) && type != Type::Binary; }
        bool operator()(Date) const { return type == Type::Date; }
        bool operator()(Time) const { return type == Type::Time; }
        bool operator()(Timestamp) const { return type == Type::Timestamp; }
        bool operator()(Instant) const { return type == Type::Instant; }
        bool operator()(const Bytes&) const { return type == Type::Binary; }
        bool operator()(const Unread&) const { return type == Type::Binary; }
    };
    return std::visit(Holds{type}, value);
}

std::uint64_t digestOf(std::string_view bytes) {
    std::uint64_t hash = 0xcbf29ce484222325ULL;
    for (const char c : bytes) hash = (hash ^ static_cast<unsigned char>(c)) * 0x100000001b3ULL;
    return hash == 0 ? 1 : hash;
}

bool isAsBelieved(const Value& stored, const Value& believed) {
    const auto* unread = std::get_if<Unread>(&believed);
    if (!unread) return stored == believed;
    const auto* found = std::get_if<Bytes>(&stored);
    return found && found->data.size() == unread->bytes &&
           (unread->digest == 0 || digestOf(found->data) == unread->digest);
}

}  // namespace jollyrow
