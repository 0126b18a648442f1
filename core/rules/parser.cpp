// SPDX-License-Identifier: MIT
// Recursive descent, one function a level of precedence, lowest first: OR, AND, NOT, IS, comparison, BETWEEN/IN/LIKE,
// || and the operators that have no level of their own, + -, * / %, ^, AT TIME ZONE, COLLATE, sign, ::. Nodes are
// appended as they are complete, so children stand before parents. Depth is counted where brackets and prefixes
// recurse; chains of binary operators are loops. Example: `a + 1 > 2 AND NOT b` -> ((a + 1) > 2) AND (NOT b). Covered
// by tests/rules/rule_test.cpp.
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cctype>

#include "core/rules/call_parser.h"
#include "core/rules/conversion.h"
#include "core/rules/lexer.h"
#include "core/rules/syntax.h"
#include "core/rules/utf8.h"

namespace jollyrow {
namespace {

/// Words that cannot name a column unless quoted.
bool isReserved(const Token& token) {
    static constexpr std::array<std::string_view, 41> kWords = {
        "ALL",  "AND",      "AS",   "ASC",    "BETWEEN", "BOTH", "CASE",  "CAST",  "COLLATE", "CREATE", "DELETE",
        "DESC", "ELSE",     "END",  "ESCAPE", "FALSE",   "FOR",  "FROM",  "GROUP", "HAVING",  "IN",     "INSERT",
        "IS",   "LEADING",  "LIKE", "LIMIT",  "NOT",     "NULL", "ON",    "OR",    "ORDER",   "SELECT", "THEN",
        "TO",   "TRAILING", "TRUE", "UNION",  "UPDATE",  "WHEN", "WHERE", "WITH"};
    return token.kind == TokenKind::Name &&
           std::any_of(kWords.begin(), kWords.end(), [&](std::string_view w) { return token.isWord(w); });
}

class Parser final : private CallParser {
  public:
    Parser(std::vector<Token> tokens, const SyntaxLimits& limits) : CallParser(std::move(tokens), limits) {}

    Result<Syntax> whole() {
        if (peek().kind == TokenKind::End) return Error{ErrorCode::InvalidInput, "A rule is expected.", peek().range};
        auto root = expression();
        if (!root) return root.error();
        if (peek().isSymbol(";")) return fail(peek(), "A rule is one expression: nothing can follow it.");
        if (peek().kind != TokenKind::End) return fail(peek(), unexpected());
        return take(*root);
    }

    Result<std::vector<SyntaxSortKey>> sortKeys() {
        std::vector<SyntaxSortKey> keys;
        if (peek().kind == TokenKind::End) return keys;
        for (;;) {
            const std::size_t start = peek().range.offset;
            auto root = expression();
            if (!root) return root.error();
            SyntaxSortKey key;
            key.range = {start, tokens_[at_ - 1].range.offset + tokens_[at_ - 1].range.length - start};
            const auto way = ordering();
            if (!way) return way.error();
            key.descending = way->descending;
            key.emptiesFirst = way->emptiesFirst;
            auto tree = take(*root);
            if (!tree) return tree.error();
            key.expression = std::move(*tree);
            keys.push_back(std::move(key));
            if (peek().kind == TokenKind::End) return keys;
            if (!acceptSymbol(","))
                return fail(peek(), fmt::format("\"{}\" is not expected here: ASC, DESC, NULLS, a comma or the end is.",
                                                peek().text));
        }
    }

  private:
    // ---- levels of precedence
    Result<NodeIndex> expression() override {
        const Deeper deeper(depth_);
        if (depth_ > limits_.depth) return tooDeep();
        return disjunction();
    }
    Error tooDeep() const { return fail(peek(), fmt::format("This is nested deeper than {} levels.", limits_.depth)); }

    Result<NodeIndex> disjunction() {
        const std::size_t start = peek().range.offset;
        auto left = conjunction();
        while (left && accept("OR")) {
            auto right = conjunction();
            if (!right) return right;
            left = operation(Op::Or, {*left, *right}, start);
        }
        return left;
    }

    Result<NodeIndex> conjunction() {
        const std::size_t start = peek().range.offset;
        auto left = negation();
        while (left && accept("AND")) {
            auto right = negation();
            if (!right) return right;
            left = operation(Op::And, {*left, *right}, start);
        }
        return left;
    }

    Result<NodeIndex> negation() {
        const std::size_t start = peek().range.offset;
        int count = 0;
        while (accept("NOT")) ++count;
        if (count > limits_.depth) return tooDeep();
        auto inner = test();
        for (; inner && count > 0; --count) inner = operation(Op::Not, {*inner}, start);
        return inner;
    }

    Result<NodeIndex> test() {
        const std::size_t start = peek().range.offset;
        auto left = comparison();
        while (left) {
            if (accept("ISNULL")) {
                left = nullTest(*left, false, start);
            } else if (accept("NOTNULL")) {
                left = nullTest(*left, true, start);
            } else if (accept("IS")) {
                left = tested(*left, start);
            } else {
                return left;
            }
            // `a IS NULL = b` compares what the test gives.
            if (left) left = compared(*left, start);
        }
        return left;
    }
    /// What stands behind IS.
    Result<NodeIndex> tested(NodeIndex value, std::size_t start) {
        const bool isNegated = accept("NOT");
        if (accept("NULL")) return nullTest(value, isNegated, start);
        if (accept("UNKNOWN")) return negatedIf(isNegated, operation(Op::IsNull, {value}, start), start);
        if (accept("TRUE")) return negatedIf(isNegated, operation(Op::IsTrue, {value}, start), start);
        if (accept("FALSE")) return negatedIf(isNegated, operation(Op::IsFalse, {value}, start), start);
        if (!accept("DISTINCT"))
            return fail(peek(), "NULL, TRUE, FALSE, UNKNOWN or DISTINCT FROM is expected after IS.");
        if (auto from = expect("FROM"); !from) return from.error();
        auto right = comparison();
        if (!right) return right;
        return negatedIf(isNegated, comparisonOf(Op::Distinct, value, *right, start), start);
    }

    Result<NodeIndex> comparison() {
        const std::size_t start = peek().range.offset;
        auto left = membership();
        return left ? compared(*left, start) : left;
    }

    /// What stands behind the left side of a comparison, if it is one.
    Result<NodeIndex> compared(Result<NodeIndex> left, std::size_t start) {
        static constexpr std::array<std::pair<std::string_view, Op>, 7> kSigns = {{{"=", Op::Equal},
                                                                                   {"<>", Op::NotEqual},
                                                                                   {"!=", Op::NotEqual},
                                                                                   {"<", Op::Less},
                                                                                   {"<=", Op::LessEqual},
                                                                                   {">", Op::Greater},
                                                                                   {">=", Op::GreaterEqual}}};
        bool isCompared = false;
        for (;;) {
            const auto sign =
                std::find_if(kSigns.begin(), kSigns.end(), [&](const auto& s) { return peek().isSymbol(s.first); });
            if (peek().isSymbol("==")) return fail(peek(), "Equality is written with one =.");
            if (sign == kSigns.end()) return left;
            if (isCompared) return fail(peek(), "Comparisons do not chain: join two of them with AND, or use BETWEEN.");
            ++at_;
            auto right = membership();
            if (!right) return right;
            left = comparisonOf(sign->second, *left, *right, start);
            if (!left) return left;
            isCompared = true;
        }
    }

    /// BETWEEN, IN, LIKE and the other patterns, each with NOT before it.
    Result<NodeIndex> membership() {
        const std::size_t start = peek().range.offset;
        auto left = concatenation();
        while (left) {
            static constexpr std::string_view kNegated[] = {"BETWEEN", "IN", "LIKE", "ILIKE", "SIMILAR", "LIKE_REGEX"};
            const bool isNegated =
                peek().isWord("NOT") && std::any_of(std::begin(kNegated), std::end(kNegated),
                                                    [&](std::string_view word) { return peek(1).isWord(word); });
            if (isNegated) ++at_;
            if (accept("BETWEEN"))
                left = between(*left, start);
            else if (accept("IN"))
                left = inList(*left, start);
            else if (accept("LIKE"))
                left = like(*left, start, false);
            else if (accept("ILIKE"))
                left = like(*left, start, true);
            else if (accept("SIMILAR"))
                left = similar(*left, start);
            else if (accept("LIKE_REGEX"))
                left = likeRegex(*left, start);
            else if (accept("OVERLAPS"))
                left = overlaps(*left, start);
            else
                return left;
            left = negatedIf(isNegated, left, start);
        }
        return left;
    }

    Result<NodeIndex> between(NodeIndex value, std::size_t start) {
        const bool isEitherWay = accept("SYMMETRIC");
        if (!isEitherWay) accept("ASYMMETRIC");
        auto low = concatenation();
        if (!low) return low;
        if (auto joined = expect("AND"); !joined) return joined.error();
        auto high = concatenation();
        if (!high) return high;
        auto within = inRange(value, *low, *high, start);
        if (!within || !isEitherWay) return within;
        auto turned = inRange(value, *high, *low, start);
        return turned ? operation(Op::Or, {*within, *turned}, start) : turned;
    }
    Result<NodeIndex> inRange(NodeIndex value, NodeIndex low, NodeIndex high, std::size_t start) {
        auto above = comparisonOf(Op::GreaterEqual, value, low, start);
        if (!above) return above;
        auto below = comparisonOf(Op::LessEqual, value, high, start);
        return below ? operation(Op::And, {*above, *below}, start) : below;
    }

    Result<NodeIndex> inList(NodeIndex value, std::size_t start) {
        if (auto open = expectSymbol("("); !open) return open.error();
        if (peek().isSymbol(")")) return fail(peek(), "IN needs at least one value between its brackets.");
        std::vector<NodeIndex> children{value};
        do {
            auto item = expression();
            if (!item) return item;
            children.push_back(*item);
        } while (acceptSymbol(","));
        if (auto closed = expectSymbol(")"); !closed) return closed.error();
        if (!isRow(value)) return operation(Op::In, std::move(children), start);
        auto any = comparisonOf(Op::Equal, value, children[1], start);
        for (std::size_t i = 2; any && i < children.size(); ++i) {
            auto next = comparisonOf(Op::Equal, value, children[i], start);
            any = next ? operation(Op::Or, {*any, *next}, start) : next;
        }
        return any;
    }

    /// Without regard to case: both sides in lower case.
    Result<NodeIndex> like(NodeIndex value, std::size_t start, bool anyCase) {
        auto pattern = concatenation();
        if (!pattern) return pattern;
        std::vector<NodeIndex> children{value, *pattern};
        if (accept("ESCAPE")) {
            const bool isLetter = peek().kind == TokenKind::String && peek().text.size() == 1 &&
                                  std::isalpha(static_cast<unsigned char>(peek().text[0])) != 0;
            if (anyCase && isLetter)
                return fail(peek(), "The escape of ILIKE is a sign: letters of any case are alike.");
            auto escape = concatenation();
            if (!escape) return escape;
            children.push_back(*escape);
        }
        for (NodeIndex& child : children) {
            if (!anyCase) break;
            auto lower = call("LOWER", {child}, start);
            if (!lower) return lower;
            child = *lower;
        }
        return operation(Op::Like, std::move(children), start);
    }

    Result<NodeIndex> similar(NodeIndex value, std::size_t start) {
        if (!accept("TO"))
            return fail(peek(),
                        "SIMILAR TO tests a text; a part of one is SUBSTRING(text FROM 'pattern'), with a regular "
                        "expression.");
        auto pattern = concatenation();
        if (!pattern) return pattern;
        std::vector<NodeIndex> children{value, *pattern};
        if (accept("ESCAPE")) {
            auto escape = concatenation();
            if (!escape) return escape;
            children.push_back(*escape);
        }
        return operation(Op::SimilarTo, std::move(children), start);
    }

    /// value LIKE_REGEX pattern [FLAG 'i'] (ISO/IEC 9075-2, 8.6).
    Result<NodeIndex> likeRegex(NodeIndex value, std::size_t start) {
        auto pattern = concatenation();
        if (!pattern) return pattern;
        std::vector<NodeIndex> children{value, *pattern};
        if (accept("FLAG")) {
            auto flags = concatenation();
            if (!flags) return flags;
            children.push_back(*flags);
        }
        return operation(Op::Matches, std::move(children), start);
    }

    /// (from, to) OVERLAPS (from, to): each `to` may be a span of time from its `from` on.
    Result<NodeIndex> overlaps(NodeIndex left, std::size_t start) {
        auto right = concatenation();
        if (!right) return right;
        if (!isRow(left) || !isRow(*right) || valuesOf(left).size() != 2 || valuesOf(*right).size() != 2)
            return Error{ErrorCode::InvalidInput, "OVERLAPS stands between two rows: (from, to) OVERLAPS (from, to).",
                         rangeFrom(start)};
        std::vector<NodeIndex> ends = valuesOf(left);
        ends.insert(ends.end(), valuesOf(*right).begin(), valuesOf(*right).end());
        return call("OVERLAPS", std::move(ends), start);
    }

    /// || and every operator without a level of its own, from the left.
    Result<NodeIndex> concatenation() override {
        const std::size_t start = peek().range.offset;
        auto left = prefixed();
        while (left) {
            static constexpr std::array<std::pair<std::string_view, Op>, 6> kSigns = {{{"||", Op::Concatenate},
                                                                                       {"&", Op::BitAnd},
                                                                                       {"|", Op::BitOr},
                                                                                       {"#", Op::BitExclusiveOr},
                                                                                       {"<<", Op::ShiftLeft},
                                                                                       {">>", Op::ShiftRight}}};
            const auto sign =
                std::find_if(kSigns.begin(), kSigns.end(), [&](const auto& s) { return peek().isSymbol(s.first); });
            if (sign != kSigns.end()) {
                ++at_;
                auto right = prefixed();
                if (!right) return right;
                left = operation(sign->second, {*left, *right}, start);
                continue;
            }
            if (!peek().isSymbol("~") && !peek().isSymbol("~*") && !peek().isSymbol("!~") && !peek().isSymbol("!~*"))
                return left;
            left = matched(*left, start);
        }
        return left;
    }
    /// A regular expression: ~, without regard to case ~*, each with ! for "not".
    Result<NodeIndex> matched(NodeIndex value, std::size_t start) {
        const std::string sign = tokens_[at_++].text;
        auto pattern = prefixed();
        if (!pattern) return pattern;
        std::vector<NodeIndex> children{value, *pattern};
        if (sign.ends_with('*')) {
            auto flags = literal(std::string("i"), start);
            if (!flags) return flags;
            children.push_back(*flags);
        }
        return negatedIf(sign.starts_with('!'), operation(Op::Matches, std::move(children), start), start);
    }
    /// Operators that stand before a value: |/ root, ||/ cube root, @ size, ~ all bits turned.
    Result<NodeIndex> prefixed() {
        static constexpr std::array<std::pair<std::string_view, std::string_view>, 3> kSigns = {
            {{"|/", "SQRT"}, {"||/", "CBRT"}, {"@", "ABS"}}};
        const std::size_t start = peek().range.offset;
        const auto sign =
            std::find_if(kSigns.begin(), kSigns.end(), [&](const auto& s) { return peek().isSymbol(s.first); });
        if (sign == kSigns.end() && !peek().isSymbol("~")) return sum();
        const Deeper deeper(depth_);
        if (depth_ > limits_.depth) return tooDeep();
        ++at_;
        auto value = prefixed();
        if (!value) return value;
        if (sign == kSigns.end()) return operation(Op::BitNot, {*value}, start);
        // Roots written so are doubles.
        if (sign->first != "@")
            value = castTo({"DOUBLE PRECISION", -1, -1, rangeFrom(start)}, *value, rangeFrom(start));
        return value ? call(std::string(sign->second), {*value}, start) : value;
    }

    Result<NodeIndex> sum() {
        const std::size_t start = peek().range.offset;
        auto left = product();
        while (left && (peek().isSymbol("+") || peek().isSymbol("-"))) {
            const Op op = tokens_[at_++].text == "+" ? Op::Add : Op::Subtract;
            auto right = product();
            if (!right) return right;
            left = operation(op, {*left, *right}, start);
        }
        return left;
    }

    Result<NodeIndex> product() {
        const std::size_t start = peek().range.offset;
        auto left = power();
        while (left && (peek().isSymbol("*") || peek().isSymbol("/") || peek().isSymbol("%"))) {
            const char c = tokens_[at_++].text[0];
            auto right = power();
            if (!right) return right;
            left = operation(c == '*' ? Op::Multiply : c == '/' ? Op::Divide : Op::Modulo, {*left, *right}, start);
        }
        return left;
    }

    Result<NodeIndex> power() {
        const std::size_t start = peek().range.offset;
        auto left = zoned();
        while (left && acceptSymbol("^")) {
            auto right = zoned();
            if (!right) return right;
            left = call("POWER", {*left, *right}, start);
        }
        return left;
    }

    Result<NodeIndex> zoned() {
        const std::size_t start = peek().range.offset;
        auto left = collated();
        while (left && peek().isWord("AT") && peek(1).isWord("TIME") && peek(2).isWord("ZONE")) {
            at_ += 3;
            auto zone = collated();
            if (!zone) return zone;
            left = operation(Op::AtZone, {*left, *zone}, start);
        }
        return left;
    }

    Result<NodeIndex> collated() {
        const std::size_t start = peek().range.offset;
        auto value = sign();
        while (value && accept("COLLATE")) {
            if (peek().kind != TokenKind::Name && peek().kind != TokenKind::QuotedName)
                return fail(peek(), "The name of a collation is expected after COLLATE.");
            SyntaxNode node{SyntaxKind::Collate};
            node.text = tokens_[at_++].text;
            node.children = {*value};
            node.range = rangeFrom(start);
            value = add(std::move(node));
        }
        return value;
    }

    Result<NodeIndex> sign() {
        const std::size_t start = peek().range.offset;
        int minuses = 0;
        for (int signs = 0; peek().isSymbol("+") || peek().isSymbol("-"); ++signs, ++at_) {
            if (signs > limits_.depth) return tooDeep();
            minuses += peek().isSymbol("-") ? 1 : 0;
        }
        // The least whole number exists with its sign only.
        if (minuses > 0 && peek().kind == TokenKind::Number && peek().text == "9223372036854775808" &&
            !peek(1).isSymbol("::")) {
            ++at_;
            --minuses;
            auto value = literal(std::numeric_limits<std::int64_t>::min(), start);
            for (; value && minuses > 0; --minuses) value = operation(Op::Negate, {*value}, start);
            return value;
        }
        auto value = converted();
        for (; value && minuses > 0; --minuses) value = operation(Op::Negate, {*value}, start);
        return value;
    }

    /// value::type, as often as it stands there.
    Result<NodeIndex> converted() {
        const std::size_t start = peek().range.offset;
        auto value = primary();
        while (value && acceptSymbol("::")) {
            auto type = readType(tokens_, at_);
            if (!type) return type.error();
            value = castTo(*type, *value, rangeFrom(start));
        }
        return value;
    }

    // ---- primaries
    Result<NodeIndex> primary() {
        const Token& token = peek();
        const std::size_t start = token.range.offset;
        switch (token.kind) {
            case TokenKind::Number: return number();
            case TokenKind::String: {
                std::string text = token.text;
                ++at_;
                return literal(std::move(text), start);
            }
            case TokenKind::QuotedName: return column();
            case TokenKind::Symbol:
                if (acceptSymbol("(")) return bracketed(false);
                if (token.isSymbol(":")) return parameter();
                return fail(token, unexpected());
            case TokenKind::End: return fail(token, unexpected());
            case TokenKind::Name: return named();
        }
        return fail(token, unexpected());
    }
    /// One value, or a row of several; ROW (…) makes one of a single value, too.
    Result<NodeIndex> bracketed(bool isRowOfOne) {
        std::vector<NodeIndex> values;
        do {
            auto value = expression();
            if (!value) return value;
            values.push_back(*value);
        } while (acceptSymbol(","));
        if (auto closed = expectSymbol(")"); !closed) return closed.error();
        return values.size() == 1 && !isRowOfOne ? values.front() : row(std::move(values));
    }

    /// A text behind a type makes a value of it: DATE '2026-11-24', DECIMAL(5, 2) '1.5'.
    bool isLiteralBehind(std::size_t words) const {
        if (peek(words).kind == TokenKind::String) return true;
        if (peek(words).isWord("WITH") && peek(words + 1).isWord("TIME")) return true;  // which says what is wrong
        if (!peek(words).isSymbol("(")) return false;
        for (std::size_t next = words + 1; next <= words + 4; ++next)
            if (peek(next).isSymbol(")")) return peek(next + 1).kind == TokenKind::String;
        return false;
    }

    Result<NodeIndex> named() {
        const Token& token = peek();
        const std::size_t start = token.range.offset;
        const std::string word = upperWord(token.text);
        if (word == "TRUE" || word == "FALSE") return ++at_, literal(word == "TRUE", start);
        if (word == "NULL" || (word == "UNKNOWN" && !peek(1).isSymbol("("))) return ++at_, literal(Empty{}, start);
        if (word == "CASE") return caseExpression();
        if (word == "CURRENT_DATE") return ++at_, operation(Op::CurrentDate, {}, start);
        if (word == "LOCALTIMESTAMP" || word == "CURRENT_TIMESTAMP")
            return ++at_, operation(Op::CurrentTimestamp, {}, start);
        if (const std::size_t words = typeWordsAt(tokens_, at_); words != 0 && isLiteralBehind(words))
            return typedLiteral();
        if (peek(1).isSymbol("(")) {
            if (word == "CAST") return cast();
            if (word == "EXTRACT") return extract();
            if (word == "ANY" || word == "SOME") return fail(token, unexpected());
            if (word == "ROW") return at_ += 2, bracketed(true);
            if (!isReserved(token) || word == "LEFT" || word == "RIGHT") return function(word);
        }
        if (isReserved(token)) return fail(token, unexpected());
        const bool isBeside = peek(1).kind == TokenKind::String || peek(1).kind == TokenKind::QuotedName;
        if (isBeside && !refusalOf(token, peek(1)).empty()) return fail(token, unexpected());
        return column();
    }
};

Result<std::vector<Token>> tokensFor(std::string_view text) {
    if (const auto broken = firstBrokenUtf8(text))
        return Error{ErrorCode::InvalidInput, "The text is not valid UTF-8 here.", TextRange{*broken, 1}};
    return tokensOf(text);
}

}  // namespace

std::string Syntax::dump() const {
    std::vector<std::string> texts;
    for (const SyntaxNode& node : nodes) {
        std::string out;
        switch (node.kind) {
            case SyntaxKind::Literal: out = constantText(node.literal); break;
            case SyntaxKind::Column: out = node.text; break;
            case SyntaxKind::Parameter: out = ":" + node.text; break;
            default: {
                out = "(" + (node.kind == SyntaxKind::Operation ? std::string(name(node.op))
                             : node.kind == SyntaxKind::Extract ? "EXTRACT " + node.text
                             : node.kind == SyntaxKind::Cast    ? "CAST " + node.text
                             : node.kind == SyntaxKind::Collate ? "COLLATE " + node.text
                             : node.kind == SyntaxKind::Window  ? node.text + " OVER"
                                                                : node.text);
                for (const std::uint32_t child : node.children) out += " " + texts[child];
                if (node.frame) out += " " + frameText(*node.frame, "distance", "distance");
                out += ")";
            }
        }
        texts.push_back(std::move(out));
    }
    return texts.back();
}

Result<Syntax> parseRule(std::string_view text, const SyntaxLimits& limits) {
    auto tokens = tokensFor(text);
    if (!tokens) return tokens.error();
    return Parser(std::move(*tokens), limits).whole();
}

Result<std::vector<SyntaxSortKey>> parseSortKeys(std::string_view text, const SyntaxLimits& limits) {
    auto tokens = tokensFor(text);
    if (!tokens) return tokens.error();
    return Parser(std::move(*tokens), limits).sortKeys();
}

std::vector<std::string> columnsNamed(std::string_view rule) {
    std::vector<std::string> names;
    const auto syntax = parseRule(rule);
    if (!syntax) return names;
    for (const SyntaxNode& node : syntax->nodes)
        if (node.kind == SyntaxKind::Column && std::find(names.begin(), names.end(), node.text) == names.end())
            names.push_back(node.text);
    return names;
}

}  // namespace jollyrow
