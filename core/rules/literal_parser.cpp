// SPDX-License-Identifier: MIT
// Covered by tests/rules/rule_test.cpp.
#include "core/rules/literal_parser.h"

#include "core/columns/time_zone.h"
#include "core/rules/conversion.h"

namespace jollyrow {
namespace {

bool isIntervalUnit(const Token& token) {
    for (const std::string_view unit : {"YEAR", "MONTH", "WEEK", "DAY", "HOUR", "MINUTE", "SECOND"})
        if (token.isWord(unit)) return true;
    return false;
}

}  // namespace

Result<NodeIndex> LiteralParser::number() {
    const Token token = tokens_[at_++];
    const auto wide = parseWideDecimal(token.text);
    if (!wide) return fail(token, "This number has more than 38 digits.");
    const bool isWhole = token.text.find_first_of(".eE") == std::string::npos;
    if (isWhole && wide->mantissa <= std::numeric_limits<std::int64_t>::max())
        return literal(static_cast<std::int64_t>(wide->mantissa), token.range.offset);
    return literal(*wide, token.range.offset);
}

Result<NodeIndex> LiteralParser::parameter() {
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

Result<NodeIndex> LiteralParser::column() {
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

Result<NodeIndex> LiteralParser::typedLiteral() {
    const std::size_t start = peek().range.offset;
    const auto type = readType(tokens_, at_);
    if (!type) return type.error();
    const Token text = tokens_[at_++];
    const RuleKind kind = namedType(type->name)->kind;
    if (kind == RuleKind::Interval) return intervalLiteral(text, start);
    if (kind == RuleKind::Date || kind == RuleKind::Time || kind == RuleKind::Timestamp || kind == RuleKind::Instant)
        return momentLiteral(kind, text, start);
    auto value = literal(text.text, start);
    if (!value) return value;
    auto made = castTo(*type, *value, rangeFrom(start));
    if (made) nodes_[*made].quoted = true;
    return made;
}

Result<NodeIndex> LiteralParser::momentLiteral(RuleKind kind, const Token& text, std::size_t start) {
    if (kind == RuleKind::Date) {
        const auto days = dateFromText(text.text);
        if (days) return literal(Date{*days}, start);
        return fail(text,
                    fmt::format("'{}' is not a date: it is written 'YYYY-MM-DD', and the day must exist.", text.text));
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
        return fail(text, fmt::format("'{}' is not a date and time: it is written 'YYYY-MM-DD HH:MM:SS{}'.", text.text,
                                      kind == RuleKind::Instant ? "+02:00" : ""));
    auto stamp = literal(Timestamp{*local}, start);
    if (!stamp || kind == RuleKind::Timestamp) return stamp;
    // Without an offset it is a time of the zone's clocks, which the binder knows.
    return castTo({"TIMESTAMP WITH TIME ZONE", -1, -1, rangeFrom(start)}, *stamp, rangeFrom(start));
}

Result<NodeIndex> LiteralParser::intervalLiteral(const Token& text, std::size_t start) {
    std::string unit;
    if (isIntervalUnit(peek())) {
        unit = upperWord(tokens_[at_++].text);
        if (peek().isWord("TO") && isIntervalUnit(peek(1))) {
            unit += " TO " + upperWord(peek(1).text);
            at_ += 2;
        }
    }
    if (peek().isSymbol("(")) return fail(peek(), "Spans have up to six decimals of the second: leave the number out.");
    const auto interval = parseInterval(text.text, unit);
    return interval ? literal(*interval, start)
                    : fail(text, fmt::format("'{}' is not a span of time: write INTERVAL '3 days' or INTERVAL '3' DAY.",
                                             text.text));
}

}  // namespace jollyrow
