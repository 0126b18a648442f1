// SPDX-License-Identifier: MIT
// Covered by tests/rules/rule_test.cpp.
#include "core/rules/refusals.h"

#include <array>

namespace jollyrow {
namespace {

struct Known {
    std::string_view begin;  ///< a word in upper case, or a symbol
    std::string_view says;
};

constexpr std::string_view kStatement =
    "A rule is an expression over one record; statements are not part of the language.";
constexpr std::string_view kBits =
    "Texts of bits are not part of rules; & | # ~ << >> work on the bits of whole numbers.";
constexpr std::string_view kLists = "Lists are not part of rules: name their values one by one, as in IN (…).";

constexpr std::array kWords = std::to_array<Known>({
    {"SELECT", kStatement},
    {"INSERT", kStatement},
    {"UPDATE", kStatement},
    {"DELETE", kStatement},
    {"DROP", kStatement},
    {"CREATE", kStatement},
    {"EXISTS", kStatement},
    {"ALL", "ALL is not part of rules: join the comparisons with AND."},
    {"ANY", "ANY is not part of rules: IN (…) compares with several values."},
    {"SOME", "SOME is not part of rules: IN (…) compares with several values."},
    {"ARRAY", kLists},
    {"OPERATOR", "Operators are written by their signs alone."},
    {"FILTER", "FILTER (WHERE …) stands behind an aggregate and before its OVER (…)."},
    {"OVER", "OVER is followed by brackets, behind an aggregate: windows are written out, they have no names here."},
    {"ORDER", "ORDER BY stands in OVER (…), and in STRING_AGG of a summary."},
    {"VARIADIC", kLists},
    {"USING", "An order is ASC or DESC; operators give none."},
    {"UESCAPE", "Characters are written E'\\u00e9'."},
    {"WITHIN", "WITHIN GROUP belongs to summaries."},
    {"XMLPARSE", "XML is not part of rules."},
});
constexpr std::array kSymbols = std::to_array<Known>({
    {"@", "@ stands before a number: it is its size, as ABS(number)."},
    {"&", "& works on the bits of two whole numbers, and stands between them."},
    {"~", "~ stands between a text and a regular expression, or before a whole number whose bits it turns."},
    {"!", "NOT is written as a word, and unequal as <>."},
    {"[", kLists},
    {"{", kLists},
    {"?", "A parameter is written :name."},
    {"$", "A parameter is written :name."},
});

}  // namespace

std::string_view refusalOf(const Token& token, const Token& next) {
    const bool isQuoted =
        next.kind == TokenKind::String && token.range.offset + token.range.length == next.range.offset;
    if (token.isWord("AT") && (next.isWord("TIME") || next.isWord("LOCAL")))
        return "AT TIME ZONE stands behind a date and time, and before the name of a zone.";
    if (isQuoted && token.isWord("U"))
        return "A text stands between single quotes as it is; E'\\u00e9' has escapes in it.";
    if (isQuoted && (token.isWord("B") || token.isWord("X"))) return kBits;
    if (token.kind == TokenKind::Name)
        for (const Known& known : kWords)
            if (token.isWord(known.begin)) return known.says;
    if (token.kind == TokenKind::Symbol)
        for (const Known& known : kSymbols)
            if (token.isSymbol(known.begin)) return known.says;
    return {};
}

}  // namespace jollyrow
