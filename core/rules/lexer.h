// SPDX-License-Identifier: MIT
#pragma once
// Tokens of SQL text (ISO/IEC 9075-2, clause 5): names, "quoted names", numbers, 'strings', operators, comments.
// Used for rules and sort lists, and to read CHECK constraints out of a schema. Knows no columns.

#include <cstddef>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/result.h"

namespace jollyrow {

enum class TokenKind { Name, QuotedName, Number, String, Symbol, End };

struct Token {
    TokenKind kind = TokenKind::End;
    std::string text;  ///< without quotes, doubled quotes undone
    TextRange range;
    /// Is it this keyword? Case-insensitive; `word` in upper case. Quoted names never are.
    bool isWord(std::string_view word) const;
    bool isSymbol(std::string_view symbol) const { return kind == TokenKind::Symbol && text == symbol; }
};

/// Ends with one End token. Fails on an unclosed quote or comment, a character that no token starts with, broken
/// UTF-8 outside quotes, or more than 1 MiB.
Result<std::vector<Token>> tokensOf(std::string_view text);

}  // namespace jollyrow
