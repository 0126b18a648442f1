// SPDX-License-Identifier: MIT
// Covered by tests/rules/rule_test.cpp and window_oracle_test.cpp.
#include "core/rules/call_parser.h"

#include <array>
#include <string_view>

namespace jollyrow {

Result<NodeIndex> CallParser::caseExpression() {
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

Result<NodeIndex> CallParser::cast() {
    at_ += 2;
    auto value = expression();
    if (!value) return value;
    if (auto as = expect("AS"); !as) return as.error();
    const auto type = readType(tokens_, at_);
    if (!type) return type.error();
    if (auto closed = expectSymbol(")"); !closed) return closed.error();
    return castTo(*type, *value, type->range);
}

Result<NodeIndex> CallParser::extract() {
    const std::size_t start = peek().range.offset;
    at_ += 2;
    if (peek().kind != TokenKind::Name && peek().kind != TokenKind::String)
        return fail(peek(), "YEAR, MONTH, DAY or another part is expected here.");
    const Token part = tokens_[at_++];
    if (auto from = expect("FROM"); !from) return from.error();
    return partOf(part, start);
}

Result<NodeIndex> CallParser::partOf(const Token& part, std::size_t start) {
    auto value = expression();
    if (!value) return value;
    if (auto closed = expectSymbol(")"); !closed) return closed.error();
    SyntaxNode node{SyntaxKind::Extract};
    node.text = upperWord(part.text);
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

Result<NodeIndex> CallParser::function(const std::string& word) {
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
    if (peek().isWord("DISTINCT"))
        return fail(peek(), "DISTINCT belongs to summaries; a rule sums up every record of a partition.");
    std::vector<NodeIndex> children;
    if (word == "COUNT" && peek().isSymbol(")")) return fail(peek(), "COUNT of all records is written COUNT(*).");
    if (peek().isSymbol("*") && word == "COUNT") {
        ++at_;
    } else if (word == "MAKE_INTERVAL") {
        if (auto read = spanParts(children); !read) return read.error();
    } else if (!peek().isSymbol(")")) {
        if (auto read = arguments(word, children); !read) return read.error();
    }
    if (auto closed = expectSymbol(")"); !closed) return closed.error();
    if (peek().isWord("FILTER") && peek(1).isSymbol("(")) {
        if (auto kept = filtered(word, children, start); !kept) return kept.error();
        if (!peek().isWord("OVER")) return fail(peek(), missing("OVER"));
    }
    if (peek().isWord("OVER") && peek(1).isSymbol("(")) return window(word, std::move(children), start);
    return call(word, std::move(children), start);
}

Result<void> CallParser::filtered(const std::string& word, std::vector<NodeIndex>& children, std::size_t start) {
    const Token& token = peek();
    at_ += 2;
    if (auto where = expect("WHERE"); !where) return where.error();
    auto condition = expression();
    if (!condition) return condition.error();
    if (auto closed = expectSymbol(")"); !closed) return closed.error();
    const auto aggregate = aggregateFromName(word);
    if (aggregate && !isSum(*aggregate))
        return fail(token, fmt::format("{} sums up nothing, so FILTER leaves nothing out of it.", word));
    auto counted = children.empty() ? literal(std::int64_t{1}, start) : Result<NodeIndex>(children[0]);
    auto nothing = literal(Empty{}, start);
    if (!counted) return counted.error();
    if (!nothing) return nothing.error();
    auto kept = operation(Op::Case, {*condition, *counted, *nothing}, start);
    if (!kept) return kept.error();
    children.resize(std::max<std::size_t>(children.size(), 1));
    children[0] = *kept;
    return {};
}

Result<void> CallParser::spanParts(std::vector<NodeIndex>& children) {
    static constexpr std::array<std::string_view, 7> kParts = {"YEARS", "MONTHS", "WEEKS", "DAYS",
                                                               "HOURS", "MINS",   "SECS"};
    std::size_t next = 0;
    const std::size_t start = peek().range.offset;
    while (!peek().isSymbol(")")) {
        if (peek(1).isSymbol("=>") || peek(1).isSymbol(":=")) {
            const auto* const part =
                std::find_if(kParts.begin(), kParts.end(), [&](std::string_view p) { return peek().isWord(p); });
            if (part == kParts.end())
                return fail(peek(), "MAKE_INTERVAL has years, months, weeks, days, hours, mins and secs.");
            next = static_cast<std::size_t>(part - kParts.begin());
            at_ += 2;
        }
        if (next >= kParts.size()) return fail(peek(), "MAKE_INTERVAL has no more than seven parts.");
        auto value = expression();
        if (!value) return value.error();
        while (children.size() <= next) {
            auto none = literal(std::int64_t{0}, start);
            if (!none) return none.error();
            children.push_back(*none);
        }
        children[next++] = *value;
        if (!acceptSymbol(",")) break;
    }
    return {};
}

Result<NodeIndex> CallParser::strpos(std::size_t start) {
    std::vector<NodeIndex> children;
    if (auto read = arguments("STRPOS", children); !read) return read.error();
    if (auto closed = expectSymbol(")"); !closed) return closed.error();
    if (children.size() == 2) std::swap(children[0], children[1]);
    return call("POSITION", std::move(children), start);
}

Result<void> CallParser::arguments(const std::string& word, std::vector<NodeIndex>& children) {
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

Result<NodeIndex> CallParser::trim(std::size_t start) {
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

Result<NodeIndex> CallParser::window(const std::string& name, std::vector<NodeIndex> children, std::size_t start) {
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
            const auto way = ordering();
            if (!way) return way.error();
            node.descending.push_back(way->descending);
            node.emptiesFirst.push_back(way->emptiesFirst);
        } while (acceptSymbol(","));
    }
    if (peek().isWord("ROWS") || peek().isWord("RANGE") || peek().isWord("GROUPS"))
        if (auto read = frame(node, children); !read) return read.error();
    if (peek().kind == TokenKind::Name && refusalOf(peek(), peek(1)).empty())
        return fail(peek(),
                    "Windows have no names here: PARTITION BY, ORDER BY and a frame stand in OVER (…), in that "
                    "order.");
    if (auto closed = expectSymbol(")"); !closed) return closed.error();
    node.children = std::move(children);
    node.range = rangeFrom(start);
    return add(std::move(node));
}

Result<CallParser::Ordering> CallParser::ordering() {
    Ordering way;
    if (!accept("ASC")) way.descending = way.emptiesFirst = accept("DESC");
    if (accept("NULLS")) {
        if (!peek().isWord("FIRST") && !peek().isWord("LAST"))
            return fail(peek(), "FIRST or LAST is expected after NULLS.");
        way.emptiesFirst = peek().isWord("FIRST");
        ++at_;
    }
    return way;
}

Result<void> CallParser::frame(SyntaxNode& node, std::vector<NodeIndex>& children) {
    const Token word = tokens_[at_++];
    WindowFrame frame;
    frame.unit = word.isWord("ROWS") ? FrameUnit::Rows : word.isWord("RANGE") ? FrameUnit::Range : FrameUnit::Groups;
    const bool hasBoth = accept("BETWEEN");
    auto begin = frameBound(children);
    if (!begin) return begin.error();
    frame.begin = *begin;
    if (hasBoth) {
        if (auto joined = expect("AND"); !joined) return joined.error();
        auto end = frameBound(children);
        if (!end) return end.error();
        frame.end = *end;
    }
    if (frame.begin == FrameBound::UnboundedFollowing || frame.end == FrameBound::UnboundedPreceding ||
        frame.end < frame.begin)
        return fail(word, "This frame ends before it begins.");
    if (accept("EXCLUDE")) {
        if (accept("CURRENT")) {
            if (auto row = expect("ROW"); !row) return row.error();
            frame.excluded = FrameExclusion::CurrentRow;
        } else if (accept("GROUP")) {
            frame.excluded = FrameExclusion::Group;
        } else if (accept("TIES")) {
            frame.excluded = FrameExclusion::Ties;
        } else if (!accept("NO") || !accept("OTHERS")) {
            return fail(peek(), "CURRENT ROW, GROUP, TIES or NO OTHERS is expected after EXCLUDE.");
        }
    }
    node.frame = frame;
    return {};
}

Result<FrameBound> CallParser::frameBound(std::vector<NodeIndex>& children) {
    if (accept("CURRENT")) {
        if (auto row = expect("ROW"); !row) return row.error();
        return FrameBound::CurrentRow;
    }
    const bool isUnbounded = accept("UNBOUNDED");
    if (!isUnbounded) {
        auto distance = concatenation();
        if (!distance) return distance.error();
        children.push_back(*distance);
    }
    if (accept("PRECEDING")) return isUnbounded ? FrameBound::UnboundedPreceding : FrameBound::Preceding;
    if (accept("FOLLOWING")) return isUnbounded ? FrameBound::UnboundedFollowing : FrameBound::Following;
    return fail(peek(), "PRECEDING or FOLLOWING is expected here.");
}

}  // namespace jollyrow
