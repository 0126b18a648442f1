// SPDX-License-Identifier: MIT
#pragma once
// What is written with a word and brackets: functions, CAST, EXTRACT, CASE … END, and aggregates OVER (…).

#include <string>
#include <vector>

#include "core/rules/literal_parser.h"

namespace jollyrow {

class CallParser : protected LiteralParser {
  protected:
    using LiteralParser::LiteralParser;

    ~CallParser() = default;

    // The levels of precedence, which lie above.
    virtual Result<NodeIndex> expression() = 0;
    virtual Result<NodeIndex> concatenation() = 0;

    Result<NodeIndex> caseExpression();
    Result<NodeIndex> cast();
    Result<NodeIndex> extract();
    /// A function, or an aggregate OVER (…). Requires: its name and an opening bracket come next.
    Result<NodeIndex> function(const std::string& word);

    struct Ordering {
        bool descending = false;
        bool emptiesFirst = false;
    };
    /// ASC, DESC, NULLS FIRST, NULLS LAST, as far as they stand there.
    Result<Ordering> ordering();

  private:
    /// What EXTRACT(part FROM and DATE_PART('part', begin.
    Result<NodeIndex> partOf(const Token& part, std::size_t start);
    /// STRPOS(text, part) is POSITION(part IN text).
    Result<NodeIndex> strpos(std::size_t start);
    /// The words of the standard between arguments are as good as commas: SUBSTRING(x FROM 1 FOR 3).
    Result<void> arguments(const std::string& word, std::vector<NodeIndex>& children);
    /// MAKE_INTERVAL(1, 2) or MAKE_INTERVAL(days => 2): parts that are not named are 0.
    Result<void> spanParts(std::vector<NodeIndex>& children);
    /// FILTER (WHERE condition): what does not meet it is empty, and so does not count.
    Result<void> filtered(const std::string& word, std::vector<NodeIndex>& children, std::size_t start);
    Result<NodeIndex> trim(std::size_t start);
    Result<NodeIndex> window(const std::string& name, std::vector<NodeIndex> children, std::size_t start);
    /// ROWS BETWEEN 1 PRECEDING AND CURRENT ROW; appends the distances.
    Result<void> frame(SyntaxNode& node, std::vector<NodeIndex>& children);
    Result<FrameBound> frameBound(std::vector<NodeIndex>& children);
};

}  // namespace jollyrow
