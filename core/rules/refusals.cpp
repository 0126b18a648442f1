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
constexpr std::string_view kPatterns =
    "Regular expressions are not part of rules. LIKE is, with % for any text and _ for one character.";
constexpr std::string_view kBits = "Operations on bits are not part of rules.";
constexpr std::string_view kLists = "Lists are not part of rules: name their values one by one, as in IN (…).";

constexpr std::array kWords = std::to_array<Known>({
    {"SELECT", kStatement},
    {"INSERT", kStatement},
    {"UPDATE", kStatement},
    {"DELETE", kStatement},
    {"DROP", kStatement},
    {"CREATE", kStatement},
    {"EXISTS", kStatement},
    {"COLLATE",
     "COLLATE is not part of rules: texts are ordered by the Unicode root collation. LOWER(…) on both sides "
     "leaves case out."},
    {"SIMILAR", "SIMILAR TO is not part of rules. LIKE is, with % for any text and _ for one character."},
    {"ALL", "ALL is not part of rules: join the comparisons with AND."},
    {"ANY", "ANY is not part of rules: IN (…) compares with several values."},
    {"SOME", "SOME is not part of rules: IN (…) compares with several values."},
    {"ARRAY", kLists},
    {"ROW", "Rows of values are not part of rules: compare their values one by one, joined with AND."},
    {"OVERLAPS", "OVERLAPS is not part of rules: two spans overlap where each begins before the other ends."},
    {"OPERATOR", "Operators are written by their signs alone."},
    {"FILTER", "FILTER belongs to summaries. Within OVER (…), CASE WHEN … THEN … END leaves records out."},
    {"WITHIN", "WITHIN GROUP belongs to summaries."},
    {"ROWS", "Moving frames are not part of rules: sums over all records of a partition are."},
    {"RANGE", "Moving frames are not part of rules: sums over all records of a partition are."},
    {"GROUPS", "Moving frames are not part of rules: sums over all records of a partition are."},
    {"XMLPARSE", "XML is not part of rules."},
});
constexpr std::array kSymbols = std::to_array<Known>({
    {"^", "Powers are written POWER(number, exponent)."},
    {"~", kPatterns},
    {"!", "NOT is written as a word, and unequal as <>."},
    {"&", kBits},
    {"|", kBits},
    {"#", kBits},
    {"@", "The size of a number is written ABS(number)."},
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
        return "AT TIME ZONE is not part of rules: points of time are read on the clocks of the design's zone.";
    if (isQuoted && (token.isWord("E") || token.isWord("U")))
        return "A text stands between single quotes as it is, the ends of lines as well; no letter stands before them.";
    if (isQuoted && (token.isWord("B") || token.isWord("X"))) return kBits;
    if ((token.isSymbol("<") || token.isSymbol(">")) && next.isSymbol(token.text)) return kBits;
    if (token.kind == TokenKind::Name)
        for (const Known& known : kWords)
            if (token.isWord(known.begin)) return known.says;
    if (token.kind == TokenKind::Symbol)
        for (const Known& known : kSymbols)
            if (token.isSymbol(known.begin)) return known.says;
    return {};
}

}  // namespace jollyrow
