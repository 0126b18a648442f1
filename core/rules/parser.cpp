// SPDX-License-Identifier: MIT
// Recursive descent, one function a level of precedence, lowest first: OR, AND, NOT, IS, comparison, BETWEEN/IN/LIKE,
// ||, + -, * / %, sign. Nodes are appended as they are complete, so children stand before parents. Depth is counted
// where brackets and prefixes recurse; chains of binary operators are loops. Example: `a + 1 > 2 AND NOT b` ->
// ((a + 1) > 2) AND (NOT b). Covered by tests/rules/rule_test.cpp.
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cctype>

#include "core/columns/civil.h"
#include "core/columns/time_zone.h"
#include "core/rules/conversion.h"
#include "core/rules/lexer.h"
#include "core/rules/syntax.h"
#include "core/rules/token_reader.h"
#include "core/rules/type_reader.h"
#include "core/rules/utf8.h"

namespace jollyrow {
namespace {

using NodeIndex = std::uint32_t;

std::string upper(std::string_view text) {
    std::string out(text);
    std::transform(out.begin(), out.end(), out.begin(),
                   [](char c) { return c >= 'a' && c <= 'z' ? static_cast<char>(c - 32) : c; });
    return out;
}

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

class Parser final : private TokenReader {
  public:
    Parser(std::vector<Token> tokens, const SyntaxLimits& limits) : TokenReader(std::move(tokens)), limits_(limits) {}

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
            if (!accept("ASC")) key.descending = key.emptiesFirst = accept("DESC");
            if (accept("NULLS")) {
                if (!peek().isWord("FIRST") && !peek().isWord("LAST"))
                    return fail(peek(), "FIRST or LAST is expected after NULLS.");
                key.emptiesFirst = peek().isWord("FIRST");
                ++at_;
            }
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
    // ---- nodes
    Result<NodeIndex> add(SyntaxNode node) {
        if (nodes_.size() >= limits_.nodes)
            return Error{ErrorCode::InvalidInput, fmt::format("This rule has more than {} parts.", limits_.nodes),
                         node.range};
        nodes_.push_back(std::move(node));
        return static_cast<NodeIndex>(nodes_.size() - 1);
    }
    Result<NodeIndex> operation(Op op, std::vector<NodeIndex> children, std::size_t start) {
        SyntaxNode node{SyntaxKind::Operation, op};
        node.children = std::move(children);
        node.range = rangeFrom(start);
        return add(std::move(node));
    }
    Result<NodeIndex> call(std::string name, std::vector<NodeIndex> children, std::size_t start) {
        SyntaxNode node{SyntaxKind::Call};
        node.text = std::move(name);
        node.children = std::move(children);
        node.range = rangeFrom(start);
        return add(std::move(node));
    }
    Result<NodeIndex> literal(RuleValue value, std::size_t start) {
        SyntaxNode node{SyntaxKind::Literal};
        node.literal = std::move(value);
        node.range = rangeFrom(start);
        return add(std::move(node));
    }
    /// The nodes of one expression, which end with its root; what comes next starts afresh.
    Result<Syntax> take(NodeIndex root) {
        Syntax out;
        if (root != nodes_.size() - 1) nodes_.resize(root + 1);
        out.nodes = std::move(nodes_);
        nodes_.clear();
        return out;
    }

    struct Deeper {
        explicit Deeper(int& d) : depth(d) { ++depth; }
        ~Deeper() { --depth; }
        int& depth;
    };

    // ---- levels of precedence
    Result<NodeIndex> expression() {
        const Deeper deeper(depth_);
        if (depth_ > limits_.depth)
            return fail(peek(), fmt::format("This is nested deeper than {} levels.", limits_.depth));
        return disjunction();
    }

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
        if (count > limits_.depth)
            return fail(peek(), fmt::format("This is nested deeper than {} levels.", limits_.depth));
        auto inner = test();
        for (; inner && count > 0; --count) inner = operation(Op::Not, {*inner}, start);
        return inner;
    }

    Result<NodeIndex> test() {
        const std::size_t start = peek().range.offset;
        auto left = comparison();
        while (left && accept("IS")) {
            const bool isNegated = accept("NOT");
            if (accept("NULL") || accept("UNKNOWN")) {
                left = operation(Op::IsNull, {*left}, start);
            } else if (accept("TRUE")) {
                left = operation(Op::IsTrue, {*left}, start);
            } else if (accept("FALSE")) {
                left = operation(Op::IsFalse, {*left}, start);
            } else if (accept("DISTINCT")) {
                if (auto from = expect("FROM"); !from) return from.error();
                auto right = comparison();
                if (!right) return right;
                left = operation(Op::Distinct, {*left, *right}, start);
            } else {
                return fail(peek(), "NULL, TRUE, FALSE, UNKNOWN or DISTINCT FROM is expected after IS.");
            }
            if (left && isNegated) left = operation(Op::Not, {*left}, start);
            // `a IS NULL = b` compares what the test gives.
            if (left) left = compared(*left, start);
        }
        return left;
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
            if (const auto why = refusalOf(peek(), peek(1)); !why.empty()) return fail(peek(), std::string(why));
            if (isCompared) return fail(peek(), "Comparisons do not chain: join two of them with AND, or use BETWEEN.");
            ++at_;
            auto right = membership();
            if (!right) return right;
            left = operation(sign->second, {*left, *right}, start);
            if (!left) return left;
            isCompared = true;
        }
    }

    /// BETWEEN, IN, LIKE and ILIKE, each with NOT before it.
    Result<NodeIndex> membership() {
        const std::size_t start = peek().range.offset;
        auto left = concatenation();
        while (left) {
            const bool isNegated = peek().isWord("NOT") && (peek(1).isWord("BETWEEN") || peek(1).isWord("IN") ||
                                                            peek(1).isWord("LIKE") || peek(1).isWord("ILIKE"));
            if (isNegated) ++at_;
            if (accept("BETWEEN"))
                left = between(*left, start);
            else if (accept("IN"))
                left = inList(*left, start);
            else if (accept("LIKE"))
                left = like(*left, start, false);
            else if (accept("ILIKE"))
                left = like(*left, start, true);
            else
                return left;
            if (left && isNegated) left = operation(Op::Not, {*left}, start);
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
        auto above = operation(Op::GreaterEqual, {value, low}, start);
        if (!above) return above;
        auto below = operation(Op::LessEqual, {value, high}, start);
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
        return operation(Op::In, std::move(children), start);
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

    Result<NodeIndex> concatenation() {
        const std::size_t start = peek().range.offset;
        auto left = sum();
        while (left && acceptSymbol("||")) {
            auto right = sum();
            if (!right) return right;
            left = operation(Op::Concatenate, {*left, *right}, start);
        }
        return left;
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
        auto left = sign();
        while (left && (peek().isSymbol("*") || peek().isSymbol("/") || peek().isSymbol("%"))) {
            const char c = tokens_[at_++].text[0];
            auto right = sign();
            if (!right) return right;
            left = operation(c == '*' ? Op::Multiply : c == '/' ? Op::Divide : Op::Modulo, {*left, *right}, start);
        }
        return left;
    }

    Result<NodeIndex> sign() {
        const std::size_t start = peek().range.offset;
        int minuses = 0;
        for (int signs = 0; peek().isSymbol("+") || peek().isSymbol("-"); ++signs, ++at_) {
            if (signs > limits_.depth)
                return fail(peek(), fmt::format("This is nested deeper than {} levels.", limits_.depth));
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
                if (acceptSymbol("(")) {
                    auto inner = expression();
                    if (!inner) return inner;
                    if (peek().isSymbol(","))
                        return fail(peek(),
                                    "Rows of values are not part of rules: only one expression stands between "
                                    "these brackets.");
                    if (auto closed = expectSymbol(")"); !closed) return closed.error();
                    return inner;
                }
                if (token.isSymbol(":")) return parameter();
                return fail(token, unexpected());
            case TokenKind::End: return fail(token, unexpected());
            case TokenKind::Name: return named();
        }
        return fail(token, unexpected());
    }

    Result<NodeIndex> number() {
        const Token token = tokens_[at_++];
        const auto wide = parseWideDecimal(token.text);
        if (!wide) return fail(token, "This number has more than 38 digits.");
        const bool isWhole = token.text.find_first_of(".eE") == std::string::npos;
        if (isWhole && wide->mantissa <= std::numeric_limits<std::int64_t>::max())
            return literal(static_cast<std::int64_t>(wide->mantissa), token.range.offset);
        return literal(*wide, token.range.offset);
    }

    Result<NodeIndex> parameter() {
        const std::size_t start = tokens_[at_++].range.offset;
        const Token& name = peek();
        if ((name.kind != TokenKind::Name && name.kind != TokenKind::QuotedName) || name.range.offset != start + 1)
            return fail(name, "A parameter's name is expected straight after the colon.");
        ++at_;
        SyntaxNode node{SyntaxKind::Parameter};
        node.text = name.text;
        node.range = rangeFrom(start);
        return add(std::move(node));
    }

    Result<NodeIndex> column() {
        const std::size_t start = peek().range.offset;
        SyntaxNode node{SyntaxKind::Column};
        node.quoted = peek().kind == TokenKind::QuotedName;
        node.text = tokens_[at_++].text;
        while (peek().isSymbol(".")) {
            ++at_;
            if (peek().kind != TokenKind::Name && peek().kind != TokenKind::QuotedName)
                return fail(peek(), "A column's name is expected after the point.");
            node.quoted = node.quoted || peek().kind == TokenKind::QuotedName;
            node.text += "." + tokens_[at_++].text;
        }
        node.range = rangeFrom(start);
        return add(std::move(node));
    }

    Result<NodeIndex> named() {
        const Token& token = peek();
        const std::size_t start = token.range.offset;
        const std::string word = upper(token.text);
        if (word == "TRUE" || word == "FALSE") return ++at_, literal(word == "TRUE", start);
        if (word == "NULL" || (word == "UNKNOWN" && !peek(1).isSymbol("("))) return ++at_, literal(Empty{}, start);
        if (word == "CASE") return caseExpression();
        if (word == "CURRENT_DATE") return ++at_, operation(Op::CurrentDate, {}, start);
        if (word == "LOCALTIMESTAMP" || word == "CURRENT_TIMESTAMP")
            return ++at_, operation(Op::CurrentTimestamp, {}, start);
        if (const std::size_t words = typeWordsAt(tokens_, at_); words != 0 && peek(words).kind == TokenKind::String)
            return typedLiteral();
        if (peek(1).isSymbol("(")) {
            if (word == "CAST") return cast();
            if (word == "EXTRACT") return extract();
            if (!isReserved(token) || word == "LEFT" || word == "RIGHT") return function(word);
        }
        if (isReserved(token)) return fail(token, unexpected());
        const bool isBeside = peek(1).kind == TokenKind::String || peek(1).kind == TokenKind::QuotedName;
        if (isBeside && !refusalOf(token, peek(1)).empty()) return fail(token, unexpected());
        return column();
    }

    /// DATE '2026-11-24': a value known at once. Where its kind depends on the zone, or needs no more than any
    /// conversion of a text, it is a CAST.
    Result<NodeIndex> typedLiteral() {
        const std::size_t start = peek().range.offset;
        const auto type = readType(tokens_, at_);
        if (!type) return type.error();
        const Token text = tokens_[at_++];
        const RuleKind kind = namedType(type->name)->kind;
        if (kind == RuleKind::Interval) return intervalLiteral(text, start);
        if (kind == RuleKind::Date || kind == RuleKind::Time || kind == RuleKind::Timestamp ||
            kind == RuleKind::Instant)
            return momentLiteral(kind, text, start);
        auto value = literal(text.text, start);
        if (!value) return value;
        auto made = castTo(*type, *value, rangeFrom(start));
        if (made) nodes_[*made].quoted = true;
        return made;
    }

    Result<NodeIndex> momentLiteral(RuleKind kind, const Token& text, std::size_t start) {
        if (kind == RuleKind::Date) {
            const auto days = dateFromText(text.text);
            if (days) return literal(Date{*days}, start);
            return fail(text, fmt::format("'{}' is not a date: it is written 'YYYY-MM-DD', and the day must exist.",
                                          text.text));
        }
        if (kind == RuleKind::Time) {
            const auto micros = timeFromText(text.text);
            if (micros) return literal(Time{*micros}, start);
            return fail(text, fmt::format("'{}' is not a time: it is written 'HH:MM:SS'.", text.text));
        }
        if (kind == RuleKind::Instant)
            if (const auto instant = parseIsoInstant(text.text)) return literal(Instant{*instant}, start);
        const auto local = timestampFromText(text.text);
        if (!local)
            return fail(text, fmt::format("'{}' is not a date and time: it is written 'YYYY-MM-DD HH:MM:SS{}'.",
                                          text.text, kind == RuleKind::Instant ? "+02:00" : ""));
        auto stamp = literal(Timestamp{*local}, start);
        if (!stamp || kind == RuleKind::Timestamp) return stamp;
        // Without an offset it is a time of the zone's clocks, which the binder knows.
        return castTo({"TIMESTAMP WITH TIME ZONE", -1, -1, rangeFrom(start)}, *stamp, rangeFrom(start));
    }

    Result<NodeIndex> castTo(const WrittenType& type, NodeIndex value, TextRange range) {
        SyntaxNode node{SyntaxKind::Cast};
        node.children = {value};
        node.text = type.name;
        node.precision = type.precision;
        node.scale = type.scale;
        node.range = range;
        return add(std::move(node));
    }

    Result<NodeIndex> intervalLiteral(const Token& text, std::size_t start) {
        std::string unit;
        if (isIntervalUnit(peek())) {
            unit = upper(tokens_[at_++].text);
            if (peek().isWord("TO") && isIntervalUnit(peek(1))) {
                unit += " TO " + upper(peek(1).text);
                at_ += 2;
            }
        }
        const auto interval = parseInterval(text.text, unit);
        return interval
                   ? literal(*interval, start)
                   : fail(text, fmt::format("'{}' is not a span of time: write INTERVAL '3 days' or INTERVAL '3' DAY.",
                                            text.text));
    }
    static bool isIntervalUnit(const Token& token) {
        for (const std::string_view unit : {"YEAR", "MONTH", "WEEK", "DAY", "HOUR", "MINUTE", "SECOND"})
            if (token.isWord(unit)) return true;
        return false;
    }

    Result<NodeIndex> caseExpression() {
        const std::size_t start = tokens_[at_++].range.offset;
        std::optional<NodeIndex> operand;
        if (!peek().isWord("WHEN")) {
            auto value = expression();
            if (!value) return value;
            operand = *value;
        }
        std::vector<NodeIndex> children;
        while (accept("WHEN")) {
            const std::size_t when = peek().range.offset;
            auto condition = expression();
            if (condition && operand) condition = operation(Op::Equal, {*operand, *condition}, when);
            if (!condition) return condition;
            if (auto then = expect("THEN"); !then) return then.error();
            auto value = expression();
            if (!value) return value;
            children.push_back(*condition);
            children.push_back(*value);
        }
        if (children.empty()) return fail(peek(), "WHEN is expected after CASE.");
        if (accept("ELSE")) {
            auto value = expression();
            if (!value) return value;
            children.push_back(*value);
        }
        if (auto closed = expect("END"); !closed) return closed.error();
        if (children.size() % 2 == 0) {
            auto nothing = literal(Empty{}, start);
            if (!nothing) return nothing;
            children.push_back(*nothing);
        }
        return operation(Op::Case, std::move(children), start);
    }

    Result<NodeIndex> cast() {
        at_ += 2;
        auto value = expression();
        if (!value) return value;
        if (auto as = expect("AS"); !as) return as.error();
        const auto type = readType(tokens_, at_);
        if (!type) return type.error();
        if (auto closed = expectSymbol(")"); !closed) return closed.error();
        return castTo(*type, *value, type->range);
    }

    Result<NodeIndex> extract() {
        const std::size_t start = peek().range.offset;
        at_ += 2;
        if (peek().kind != TokenKind::Name && peek().kind != TokenKind::String)
            return fail(peek(), "YEAR, MONTH, DAY or another part is expected here.");
        const Token part = tokens_[at_++];
        if (auto from = expect("FROM"); !from) return from.error();
        return partOf(part, start);
    }
    /// What EXTRACT(part FROM and DATE_PART('part', begin.
    Result<NodeIndex> partOf(const Token& part, std::size_t start) {
        auto value = expression();
        if (!value) return value;
        if (auto closed = expectSymbol(")"); !closed) return closed.error();
        SyntaxNode node{SyntaxKind::Extract};
        node.text = upper(part.text);
        if (node.text == "MILLISECOND" || node.text == "MICROSECOND") node.text += 'S';
        if (!datePartFromName(node.text))
            return fail(part, fmt::format("{} is no part of a date or time. YEAR, QUARTER, MONTH, WEEK, DAY, DOY, DOW, "
                                          "ISODOW, ISOYEAR, HOUR, MINUTE, SECOND, EPOCH, MILLISECONDS, MICROSECONDS, "
                                          "DECADE, CENTURY and MILLENNIUM are.",
                                          node.text));
        node.children = {*value};
        node.range = rangeFrom(start);
        return add(std::move(node));
    }

    Result<NodeIndex> function(const std::string& word) {
        const std::size_t start = peek().range.offset;
        at_ += 2;
        if (word == "TRIM") return trim(start);
        if (word == "DATE_PART" && peek().kind == TokenKind::String && peek(1).isSymbol(",")) {
            const Token part = peek();
            at_ += 2;
            auto value = partOf(part, start);  // a double there
            return value ? castTo({"DOUBLE PRECISION", -1, -1, rangeFrom(start)}, *value, rangeFrom(start)) : value;
        }
        if (word == "NOW" && acceptSymbol(")")) return operation(Op::CurrentTimestamp, {}, start);
        if (word == "PI" && acceptSymbol(")")) return literal(3.141592653589793, start);
        if (word == "STRPOS") return strpos(start);
        std::vector<NodeIndex> children;
        std::string name = word;
        if (peek().isSymbol("*") && word == "COUNT") {
            ++at_;
        } else if (!peek().isSymbol(")")) {
            if (auto read = arguments(word, children); !read) return read.error();
        }
        if (auto closed = expectSymbol(")"); !closed) return closed.error();
        if (peek().isWord("OVER") && peek(1).isSymbol("(")) return window(name, std::move(children), start);
        return call(std::move(name), std::move(children), start);
    }

    /// STRPOS(text, part) is POSITION(part IN text).
    Result<NodeIndex> strpos(std::size_t start) {
        std::vector<NodeIndex> children;
        if (auto read = arguments("STRPOS", children); !read) return read.error();
        if (auto closed = expectSymbol(")"); !closed) return closed.error();
        if (children.size() == 2) std::swap(children[0], children[1]);
        return call("POSITION", std::move(children), start);
    }

    /// The words of the standard between arguments are as good as commas: SUBSTRING(x FROM 1 FOR 3).
    Result<void> arguments(const std::string& word, std::vector<NodeIndex>& children) {
        for (;;) {
            // IN would be taken for a condition.
            auto value = word == "POSITION" && children.empty() ? concatenation() : expression();
            if (!value) return value.error();
            children.push_back(*value);
            if (acceptSymbol(",")) continue;
            if (word == "POSITION" && children.size() == 1 && accept("IN")) continue;
            if (word == "OVERLAY" && children.size() == 1 && accept("PLACING")) continue;
            if (word == "OVERLAY" && children.size() == 2 && accept("FROM")) continue;
            if (word == "OVERLAY" && children.size() == 3 && accept("FOR")) continue;
            if (word == "SUBSTRING" && children.size() == 1 && accept("FROM")) continue;
            if (word == "SUBSTRING" && children.size() == 2 && accept("FOR")) continue;
            return {};
        }
    }

    Result<NodeIndex> trim(std::size_t start) {
        std::string name = "TRIM";
        if (accept("LEADING"))
            name = "LTRIM";
        else if (accept("TRAILING"))
            name = "RTRIM";
        else
            accept("BOTH");
        std::vector<NodeIndex> children;
        if (!accept("FROM")) {
            auto first = expression();
            if (!first) return first;
            children.push_back(*first);
            if (accept("FROM")) {
                auto text = expression();
                if (!text) return text;
                children.insert(children.begin(), *text);
            } else if (acceptSymbol(",")) {
                auto characters = expression();
                if (!characters) return characters;
                children.push_back(*characters);
            }
        } else {
            auto text = expression();
            if (!text) return text;
            children.push_back(*text);
        }
        if (auto closed = expectSymbol(")"); !closed) return closed.error();
        return call(std::move(name), std::move(children), start);
    }

    Result<NodeIndex> window(const std::string& name, std::vector<NodeIndex> children, std::size_t start) {
        at_ += 2;
        SyntaxNode node{SyntaxKind::Window};
        node.text = name;
        node.arguments = static_cast<std::uint32_t>(children.size());
        const std::size_t before = children.size();
        if (accept("PARTITION")) {
            if (auto by = expect("BY"); !by) return by.error();
            do {
                auto value = expression();
                if (!value) return value;
                children.push_back(*value);
            } while (acceptSymbol(","));
        }
        node.partitions = static_cast<std::uint32_t>(children.size() - before);
        if (accept("ORDER")) {
            if (auto by = expect("BY"); !by) return by.error();
            do {
                auto value = expression();
                if (!value) return value;
                children.push_back(*value);
                node.descending.push_back(accept("DESC"));
                if (!node.descending.back()) accept("ASC");
            } while (acceptSymbol(","));
        }
        if (auto closed = expectSymbol(")"); !closed) return closed.error();
        node.children = std::move(children);
        node.range = rangeFrom(start);
        return add(std::move(node));
    }

    SyntaxLimits limits_;
    int depth_ = 0;
    std::vector<SyntaxNode> nodes_;
};

Result<Parser> parserFor(std::string_view text, const SyntaxLimits& limits) {
    if (const auto broken = firstBrokenUtf8(text))
        return Error{ErrorCode::InvalidInput, "The text is not valid UTF-8 here.", TextRange{*broken, 1}};
    auto tokens = tokensOf(text);
    if (!tokens) return tokens.error();
    return Parser(std::move(*tokens), limits);
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
                             : node.kind == SyntaxKind::Window  ? node.text + " OVER"
                                                                : node.text);
                for (const std::uint32_t child : node.children) out += " " + texts[child];
                out += ")";
            }
        }
        texts.push_back(std::move(out));
    }
    return texts.back();
}

Result<Syntax> parseRule(std::string_view text, const SyntaxLimits& limits) {
    auto parser = parserFor(text, limits);
    if (!parser) return parser.error();
    return parser->whole();
}

Result<std::vector<SyntaxSortKey>> parseSortKeys(std::string_view text, const SyntaxLimits& limits) {
    auto parser = parserFor(text, limits);
    if (!parser) return parser.error();
    return parser->sortKeys();
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
