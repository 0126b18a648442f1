// SPDX-License-Identifier: MIT
#include "core/rules/sort_list.h"

#include <fmt/format.h>

#include "core/base/near_name.h"
#include "core/rules/lexer.h"

namespace jollyrow {
namespace {

Error at(const Token& token, std::string message) { return {ErrorCode::InvalidInput, std::move(message), token.range}; }

std::optional<FieldIndex> findField(const Token& token, const TableSchema& schema) {
    if (const auto exact = schema.find(token.text)) return exact;
    if (token.kind == TokenKind::QuotedName) return std::nullopt;
    for (std::size_t i = 0; i < schema.fields.size(); ++i) {
        const std::string& name = schema.fields[i].name;
        if (name.size() == token.text.size() && editDistance(name, token.text) == 0) return static_cast<FieldIndex>(i);
    }
    return std::nullopt;
}

Error unknownColumn(const Token& token, const TableSchema& schema) {
    std::vector<std::string> names;
    for (const FieldSchema& field : schema.fields) names.push_back(field.name);
    const auto near = nearestName(token.text, names);
    return {ErrorCode::NotFound,
            fmt::format("There is no column {} in {}.{}", token.text, schema.name,
                        near ? fmt::format(" Did you mean {}?", *near) : ""),
            token.range};
}

/// Reads one key; leaves `next` on the comma or the end.
Result<SortKey> parseKey(const std::vector<Token>& tokens, std::size_t& next, const TableSchema& schema) {
    const Token& nameToken = tokens[next];
    if (nameToken.kind != TokenKind::Name && nameToken.kind != TokenKind::QuotedName)
        return at(nameToken, "A column name is expected here.");
    const auto field = findField(nameToken, schema);
    if (!field) return unknownColumn(nameToken, schema);
    const Type type = schema.field(*field).type;
    if (type == Type::Binary || type == Type::NumberList)
        return at(nameToken, fmt::format("{} holds {}, which has no order.", nameToken.text, article(type)));
    ++next;
    SortKey key{*field, Direction::Ascending, Empties::Last};
    if (tokens[next].isWord("ASC")) {
        ++next;
    } else if (tokens[next].isWord("DESC")) {
        key.direction = Direction::Descending;
        key.empties = Empties::First;
        ++next;
    }
    if (!tokens[next].isWord("NULLS")) return key;
    ++next;
    if (!tokens[next].isWord("FIRST") && !tokens[next].isWord("LAST"))
        return at(tokens[next], "FIRST or LAST is expected after NULLS.");
    key.empties = tokens[next].isWord("FIRST") ? Empties::First : Empties::Last;
    ++next;
    return key;
}

}  // namespace

Result<std::vector<SortKey>> parseSortList(std::string_view text, const TableSchema& schema) {
    auto tokens = tokensOf(text);
    if (!tokens) return tokens.error();
    std::vector<SortKey> keys;
    std::size_t next = 0;
    if (tokens->front().kind == TokenKind::End) return keys;
    for (;;) {
        auto key = parseKey(*tokens, next, schema);
        if (!key) return key.error();
        keys.push_back(*key);
        const Token& after = (*tokens)[next];
        if (after.kind == TokenKind::End) return keys;
        if (!after.isSymbol(","))
            return at(after,
                      fmt::format("\"{}\" is not expected here: ASC, DESC, NULLS, a comma or the end is.", after.text));
        ++next;
    }
}

}  // namespace jollyrow
