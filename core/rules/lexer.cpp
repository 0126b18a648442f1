// SPDX-License-Identifier: MIT
#include "core/rules/lexer.h"

#include <algorithm>
#include <array>
#include <charconv>

#include "core/rules/utf8.h"

namespace jollyrow {
namespace {

constexpr std::size_t kMaxLength = 1 << 20;

bool startsName(char c) { return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '_' || (c & 0x80) != 0; }
bool isDigit(char c) { return c >= '0' && c <= '9'; }
bool isSpace(char c) { return c == ' ' || c == '\t' || c == '\n' || c == '\r' || c == '\f'; }

class Lexer {
  public:
    explicit Lexer(std::string_view text) : text_(text) {}

    Result<std::vector<Token>> run() {
        if (text_.size() > kMaxLength) return fail("This text is longer than 1 MiB.", 0, 0);
        for (;;) {
            if (auto skipped = skipBlank(); !skipped) return skipped.error();
            const std::size_t start = at_;
            if (at_ == text_.size()) {
                tokens_.push_back({TokenKind::End, "", {start, 0}});
                return std::move(tokens_);
            }
            if (auto taken = take(); !taken) return taken.error();
        }
    }

  private:
    static Error fail(std::string message, std::size_t offset, std::size_t length) {
        return {ErrorCode::InvalidInput, std::move(message), TextRange{offset, length}};
    }
    char peek(std::size_t ahead = 0) const { return at_ + ahead < text_.size() ? text_[at_ + ahead] : '\0'; }
    void push(TokenKind kind, std::size_t start, std::string text) {
        tokens_.push_back({kind, std::move(text), {start, at_ - start}});
    }

    Result<void> skipBlank() {
        for (;;) {
            while (at_ < text_.size() && isSpace(text_[at_])) ++at_;
            if (peek() == '-' && peek(1) == '-') {
                while (at_ < text_.size() && text_[at_] != '\n') ++at_;
            } else if (peek() == '/' && peek(1) == '*') {
                const std::size_t end = text_.find("*/", at_ + 2);
                if (end == std::string_view::npos) return fail("This comment is not closed with */.", at_, 2);
                at_ = end + 2;
            } else {
                return {};
            }
        }
    }

    Result<void> take() {
        const std::size_t start = at_;
        const char c = text_[at_];
        if ((c == 'E' || c == 'e') && peek(1) == '\'') return takeEscaped();
        if (startsName(c)) {
            while (at_ < text_.size() && (startsName(text_[at_]) || isDigit(text_[at_]))) ++at_;
            push(TokenKind::Name, start, std::string(text_.substr(start, at_ - start)));
            return {};
        }
        if (isDigit(c) || (c == '.' && isDigit(peek(1)))) return takeNumber();
        if (c == '"' || c == '\'' || c == '`') return takeQuoted(c);
        if (c == '[') return takeBracketed();
        return takeSymbol();
    }

    Result<void> takeNumber() {
        const std::size_t start = at_;
        while (isDigit(peek())) ++at_;
        if (peek() == '.') {
            ++at_;
            while (isDigit(peek())) ++at_;
        }
        if ((peek() == 'e' || peek() == 'E') &&
            (isDigit(peek(1)) || ((peek(1) == '-' || peek(1) == '+') && isDigit(peek(2))))) {
            at_ += 2;
            while (isDigit(peek())) ++at_;
        }
        push(TokenKind::Number, start, std::string(text_.substr(start, at_ - start)));
        return {};
    }

    Result<void> takeQuoted(char quote) {
        const std::size_t start = at_++;
        std::string content;
        for (;; ++at_) {
            if (at_ == text_.size())
                return fail(
                    quote == '\'' ? "This text is not closed with '." : "This name is not closed with its quote.",
                    start, 1);
            if (text_[at_] == quote) {
                if (peek(1) == quote) {
                    ++at_;
                } else if (const std::size_t next = quote == '\'' ? continuation() : 0; next != 0) {
                    at_ = next;  // the quote it goes on behind
                    continue;
                } else {
                    break;
                }
            }
            content += text_[at_];
        }
        ++at_;
        push(quote == '\'' ? TokenKind::String : TokenKind::QuotedName, start, std::move(content));
        return {};
    }

    /// A text goes on in the next line where that begins with a quote (ISO/IEC 9075-2, 5.3): the place of that quote; 0
    /// where it does not.
    std::size_t continuation() const {
        bool hasLineEnd = false;
        std::size_t next = at_ + 1;
        for (; next < text_.size() && isSpace(text_[next]); ++next) hasLineEnd = hasLineEnd || text_[next] == '\n';
        return hasLineEnd && next < text_.size() && text_[next] == '\'' ? next : 0;
    }

    /// E'a\tb': a backslash begins an escape, as in C.
    Result<void> takeEscaped() {
        const std::size_t start = at_;
        at_ += 2;
        std::string content;
        for (;;) {
            if (at_ >= text_.size()) return fail("This text is not closed with '.", start, 2);
            const char c = text_[at_++];
            if (c == '\'') {
                if (peek() != '\'') break;
                ++at_;
                content += '\'';
            } else if (c != '\\') {
                content += c;
            } else if (auto done = takeEscape(content); !done) {
                return done;
            }
        }
        if (const auto broken = firstBrokenUtf8(content))
            return fail("The escapes in this text make no valid UTF-8.", start, at_ - start);
        push(TokenKind::String, start, std::move(content));
        return {};
    }
    /// What stands behind a backslash.
    Result<void> takeEscape(std::string& into) {
        static constexpr std::string_view kLetters = "bfnrt", kMeant = "\b\f\n\r\t";
        const std::size_t start = at_ - 1;
        if (at_ >= text_.size()) return fail("This text is not closed with '.", start, 1);
        const char c = text_[at_++];
        const auto number = [&](int base, std::size_t most) {
            unsigned value = 0;
            const char* const end = text_.data() + std::min(text_.size(), at_ + most);
            const auto [stop, problem] = std::from_chars(text_.data() + at_, end, value, base);
            const auto count = static_cast<std::size_t>(stop - (text_.data() + at_));
            at_ += count;
            return std::pair{value, problem == std::errc() ? count : 0};
        };
        if (const std::size_t at = kLetters.find(c); at != std::string_view::npos) {
            into += kMeant[at];
        } else if (c >= '0' && c <= '7') {
            --at_;
            const auto [value, count] = number(8, 3);
            if (value == 0 || value > 0xFF) return fail("This is no byte of a text.", start, at_ - start);
            into += static_cast<char>(value);
        } else if (c == 'x' || c == 'u' || c == 'U') {
            const std::size_t digits = c == 'x' ? 2 : c == 'u' ? 4 : 8;
            const auto [value, count] = number(16, digits);
            if (count == 0 && c == 'x') {
                into += c;
                return {};
            }
            const bool isWhole = c == 'x' || count == digits;
            const bool isCharacter = value != 0 && value <= 0x10FFFF && (value < 0xD800 || value > 0xDFFF);
            if (!isWhole || !isCharacter) return fail("This is no character's number.", start, at_ - start);
            if (c == 'x')
                into += static_cast<char>(value);
            else
                appendUtf8(into, value);
        } else {
            into += c;
        }
        return {};
    }

    /// Only schemas of one database write names so; accepted when reading them.
    Result<void> takeBracketed() {
        const std::size_t start = at_;
        const std::size_t end = text_.find(']', at_);
        if (end == std::string_view::npos) return fail("[ is not closed.", start, 1);
        if (end == at_ + 1 || isDigit(text_[at_ + 1]) || text_[at_ + 1] == '\'')
            return fail("Lists are not part of rules: name their values one by one, as in IN (…).", start,
                        end + 1 - start);
        at_ = end + 1;
        push(TokenKind::QuotedName, start, std::string(text_.substr(start + 1, end - start - 1)));
        return {};
    }

    Result<void> takeSymbol() {
        // Longer ones first.
        static constexpr std::array<std::string_view, 16> kLong = {
            "||/", "!~*", "<>", "<=", ">=", "||", "!=", "==", "::", ":=", "=>", "<<", ">>", "|/", "!~", "~*"};
        const std::size_t start = at_;
        for (const std::string_view symbol : kLong) {
            if (text_.substr(at_).starts_with(symbol)) {
                at_ += symbol.size();
                push(TokenKind::Symbol, start, std::string(symbol));
                return {};
            }
        }
        if (std::string_view("+-*/%(),.<>=;:?&|~^#!@{}$").find(text_[at_]) == std::string_view::npos)
            return fail("This character has no meaning here.", start, 1);
        push(TokenKind::Symbol, start, std::string(1, text_[at_++]));
        return {};
    }

    std::string_view text_;
    std::size_t at_ = 0;
    std::vector<Token> tokens_;
};

}  // namespace

bool Token::isWord(std::string_view word) const {
    if (kind != TokenKind::Name || text.size() != word.size()) return false;
    for (std::size_t i = 0; i < word.size(); ++i) {
        const char c = text[i];
        if ((c >= 'a' && c <= 'z' ? static_cast<char>(c - 32) : c) != word[i]) return false;
    }
    return true;
}

Result<std::vector<Token>> tokensOf(std::string_view text) { return Lexer(text).run(); }

}  // namespace jollyrow
