// SPDX-License-Identifier: MIT
// Covered by tests/rules/rule_test.cpp and typed_oracle_test.cpp.
#include "core/rules/type_reader.h"

#include <algorithm>
#include <array>
#include <initializer_list>

#include "core/columns/decimal.h"

namespace jollyrow {
namespace {

constexpr std::uint8_t kSmallBits = 16, kFloatBits = 24;

constexpr std::array kTypes = std::to_array<NamedType>({
    {"BOOLEAN", RuleKind::Boolean},
    {"BOOL", RuleKind::Boolean},
    {"INTEGER", RuleKind::Integer},
    {"INT", RuleKind::Integer},
    {"INT4", RuleKind::Integer},
    {"BIGINT", RuleKind::Integer},
    {"INT8", RuleKind::Integer},
    {"SMALLINT", RuleKind::Integer, 0, kSmallBits},
    {"INT2", RuleKind::Integer, 0, kSmallBits},
    {"DECIMAL", RuleKind::Decimal, 2},
    {"NUMERIC", RuleKind::Decimal, 2},
    {"DEC", RuleKind::Decimal, 2},
    {"DOUBLE PRECISION", RuleKind::Real},
    {"FLOAT8", RuleKind::Real},
    {"FLOAT", RuleKind::Real},
    {"REAL", RuleKind::Real, 0, kFloatBits},
    {"FLOAT4", RuleKind::Real, 0, kFloatBits},
    {"VARCHAR", RuleKind::Text, 1},
    {"CHARACTER VARYING", RuleKind::Text, 1},
    {"CHAR VARYING", RuleKind::Text, 1},
    {"CHAR", RuleKind::Text, 1, 0, true},
    {"CHARACTER", RuleKind::Text, 1, 0, true},
    {"BPCHAR", RuleKind::Text, 1, 0, true},
    {"TEXT", RuleKind::Text},
    {"DATE", RuleKind::Date},
    {"TIME", RuleKind::Time},
    {"TIME WITHOUT TIME ZONE", RuleKind::Time},
    {"TIMESTAMP", RuleKind::Timestamp},
    {"TIMESTAMP WITHOUT TIME ZONE", RuleKind::Timestamp},
    {"TIMESTAMP WITH TIME ZONE", RuleKind::Instant},
    {"TIMESTAMPTZ", RuleKind::Instant},
    {"INTERVAL", RuleKind::Interval},
});

std::string upperOf(std::string_view text) {
    std::string out(text);
    std::transform(out.begin(), out.end(), out.begin(),
                   [](char c) { return c >= 'a' && c <= 'z' ? static_cast<char>(c - 'a' + 'A') : c; });
    return out;
}

bool stand(const std::vector<Token>& tokens, std::size_t at, std::string_view words) {
    for (std::size_t from = 0; from < words.size(); ++at) {
        const std::size_t end = std::min(words.find(' ', from), words.size());
        if (at >= tokens.size() || !tokens[at].isWord(words.substr(from, end - from))) return false;
        from = end + 1;
    }
    return true;
}

std::string nameOf(const std::vector<Token>& tokens, std::size_t at, std::size_t words) {
    std::string name;
    for (std::size_t i = at; i < at + words; ++i) name += (i == at ? "" : " ") + upperOf(tokens[i].text);
    return name;
}

Result<void> readNumber(const std::vector<Token>& tokens, std::size_t& at, int& out) {
    constexpr std::int64_t kMost = 10'000'000;
    const Token& token = tokens[at];
    const auto value = token.kind == TokenKind::Number ? parseDecimal(token.text) : std::nullopt;
    if (!value || value->scale != 0 || value->mantissa > kMost)
        return Error{ErrorCode::InvalidInput, "A whole number is expected here.", token.range};
    out = static_cast<int>(value->mantissa);
    ++at;
    return {};
}

}  // namespace

const NamedType* namedType(std::string_view upperName) {
    const auto* const found =
        std::find_if(kTypes.begin(), kTypes.end(), [&](const NamedType& type) { return type.name == upperName; });
    return found == kTypes.end() ? nullptr : found;
}

std::size_t typeWordsAt(const std::vector<Token>& tokens, std::size_t at) {
    std::size_t longest = 0;
    for (const NamedType& type : kTypes) {
        const auto words = static_cast<std::size_t>(std::count(type.name.begin(), type.name.end(), ' ')) + 1;
        if (words > longest && stand(tokens, at, type.name)) longest = words;
    }
    return longest;
}

Result<WrittenType> readType(const std::vector<Token>& tokens, std::size_t& at) {
    WrittenType type;
    const std::size_t start = std::min(at, tokens.size() - 1);
    if (tokens[start].kind == TokenKind::QuotedName)
        return Error{ErrorCode::InvalidInput,
                     "Types are written without quotes, by their own names: TEXT, DATE, DECIMAL.", tokens[start].range};
    if (tokens[start].kind != TokenKind::Name)
        return Error{ErrorCode::InvalidInput, "The name of a type, such as TEXT or DATE, has to stand here.",
                     tokens[start].range};
    const std::size_t words = std::max<std::size_t>(typeWordsAt(tokens, at), 1);
    type.name = nameOf(tokens, at, words);
    at += words;
    const NamedType* known = namedType(type.name);
    const bool isMoment = known && (known->kind == RuleKind::Time || known->kind == RuleKind::Timestamp ||
                                    known->kind == RuleKind::Instant || known->kind == RuleKind::Interval);
    if (isMoment && tokens[at].isSymbol("("))
        return Error{ErrorCode::InvalidInput, "Times have up to six decimals of the second here: leave the number out.",
                     tokens[at].range};
    if (type.name == "TIME" && tokens[at].isWord("WITH"))
        return Error{ErrorCode::InvalidInput, "A time of day has no zone here: TIMESTAMP WITH TIME ZONE has one.",
                     tokens[at].range};
    if (tokens[at].isSymbol("(")) {
        ++at;
        if (auto read = readNumber(tokens, at, type.precision); !read) return read.error();
        if (tokens[at].isSymbol(",")) {
            ++at;
            if (auto read = readNumber(tokens, at, type.scale); !read) return read.error();
        }
        if (!tokens[at].isSymbol(")")) return Error{ErrorCode::InvalidInput, ") is expected here.", tokens[at].range};
        ++at;
    }
    const TextRange last = tokens[at - 1].range;
    type.range = {tokens[start].range.offset, last.offset + last.length - tokens[start].range.offset};
    return type;
}

}  // namespace jollyrow
