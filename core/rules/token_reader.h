// SPDX-License-Identifier: MIT
#pragma once
// The tokens of a rule as a parser takes them, one after the other, and what it says of one that does not fit.

#include <fmt/format.h>

#include <algorithm>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "core/base/result.h"
#include "core/rules/lexer.h"
#include "core/rules/refusals.h"

namespace jollyrow {

class TokenReader {
  protected:
    /// Requires: tokens end with one of kind End.
    explicit TokenReader(std::vector<Token> tokens) : tokens_(std::move(tokens)) {}

    /// The token that comes next, or one behind it; the End behind the last.
    const Token& peek(std::size_t ahead = 0) const { return tokens_[std::min(at_ + ahead, tokens_.size() - 1)]; }
    bool accept(std::string_view word) {
        if (!peek().isWord(word)) return false;
        ++at_;
        return true;
    }
    bool acceptSymbol(std::string_view symbol) {
        if (!peek().isSymbol(symbol)) return false;
        ++at_;
        return true;
    }
    static Error fail(const Token& token, std::string message) {
        return {ErrorCode::InvalidInput, std::move(message), token.range};
    }
    /// Of the token that comes next, where nothing better is known to say.
    std::string unexpected() const {
        const Token& token = peek();
        if (token.kind == TokenKind::End)
            return "The rule breaks off here: a column, a value or a function is expected.";
        if (const auto why = refusalOf(token, peek(1)); !why.empty()) return std::string(why);
        return fmt::format("\"{}\" is not expected here.", token.text.substr(0, 40));
    }
    Result<void> expect(std::string_view word) {
        if (accept(word)) return {};
        return fail(peek(), missing(word));
    }
    Result<void> expectSymbol(std::string_view symbol) {
        if (acceptSymbol(symbol)) return {};
        return fail(peek(), missing(symbol));
    }
    /// A construct that is known, and not part of rules, is named; else what would have to stand there.
    std::string missing(std::string_view wanted) const {
        if (peek().kind == TokenKind::End) return fmt::format("{} is missing at the end.", wanted);
        const auto why = refusalOf(peek(), peek(1));
        return why.empty() ? fmt::format("{} is expected here, not \"{}\".", wanted, peek().text.substr(0, 40))
                           : std::string(why);
    }
    /// From a place in the text to the end of the token that was taken last.
    TextRange rangeFrom(std::size_t start) const {
        const TextRange last = tokens_[at_ == 0 ? 0 : at_ - 1].range;
        return {start, last.offset + last.length - start};
    }

    std::vector<Token> tokens_;
    std::size_t at_ = 0;  ///< of the token that comes next
};

}  // namespace jollyrow
