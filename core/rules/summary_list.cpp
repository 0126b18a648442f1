// SPDX-License-Identifier: MIT
// Tokens say where a summary ends and where its parts stand; each part is compiled as a rule of its own.
// Covered by tests/rows/group_test.cpp.
#include "core/rules/summary_list.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <optional>

#include "core/base/near_name.h"
#include "core/rules/lexer.h"

namespace jollyrow {
namespace {

struct Named {
    std::string_view name;
    SummaryKind kind;
};
constexpr std::array<Named, 13> kNames = {{{"COUNT", SummaryKind::Count},
                                           {"SUM", SummaryKind::Sum},
                                           {"AVG", SummaryKind::Average},
                                           {"MIN", SummaryKind::Minimum},
                                           {"MAX", SummaryKind::Maximum},
                                           {"VAR_SAMP", SummaryKind::Variance},
                                           {"VARIANCE", SummaryKind::Variance},
                                           {"VAR_POP", SummaryKind::VariancePopulation},
                                           {"STDDEV_SAMP", SummaryKind::Deviation},
                                           {"STDDEV", SummaryKind::Deviation},
                                           {"STDDEV_POP", SummaryKind::DeviationPopulation},
                                           {"PERCENTILE_CONT", SummaryKind::PercentileContinuous},
                                           {"PERCENTILE_DISC", SummaryKind::PercentileDiscrete}}};

bool isPercentile(SummaryKind kind) {
    return kind == SummaryKind::PercentileContinuous || kind == SummaryKind::PercentileDiscrete;
}

class SummaryParser {
  public:
    SummaryParser(std::string_view text, std::vector<Token> tokens, const TableSchema& schema,
                  const RuleVocabulary& vocabulary)
        : text_(text), tokens_(std::move(tokens)), schema_(schema), vocabulary_(vocabulary) {}

    Result<std::vector<SummaryTerm>> run() {
        std::vector<SummaryTerm> terms;
        if (peek().kind == TokenKind::End) return terms;
        for (;;) {
            auto term = one();
            if (!term) return term.error();
            terms.push_back(std::move(*term));
            if (peek().kind == TokenKind::End) return terms;
            if (!accept(",")) return fail(peek().range, "A comma stands between summaries.");
        }
    }

  private:
    const Token& peek(std::size_t ahead = 0) const { return tokens_[std::min(at_ + ahead, tokens_.size() - 1)]; }
    bool accept(std::string_view symbol) {
        if (!peek().isSymbol(symbol)) return false;
        ++at_;
        return true;
    }
    bool acceptWords(std::initializer_list<std::string_view> words) {
        std::size_t n = 0;
        for (const std::string_view word : words)
            if (!peek(n++).isWord(word)) return false;
        at_ += n;
        return true;
    }
    static Error fail(TextRange range, std::string message) {
        return {ErrorCode::InvalidInput, std::move(message), range};
    }

    /// What stands up to the bracket that closes the present one, which is taken too.
    Result<TextRange> upToClosing() {
        const std::size_t start = peek().range.offset;
        std::size_t end = start;
        for (int depth = 0; peek().kind != TokenKind::End; ++at_) {
            if (peek().isSymbol("(")) ++depth;
            if (peek().isSymbol(")") && depth-- == 0) {
                ++at_;
                return TextRange{start, end - start};
            }
            end = peek().range.offset + peek().range.length;
        }
        return fail(peek().range, "A closing bracket is missing.");
    }

    Result<std::shared_ptr<const Program>> compiled(TextRange range, std::optional<RuleKind> expected) const {
        BindOptions options;
        options.expected = expected;
        auto program = compileRule(text_.substr(range.offset, range.length), schema_, vocabulary_, options);
        if (!program) {
            Error error = program.error();
            error.where = TextRange{range.offset + (error.where ? error.where->offset : 0),
                                    error.where ? error.where->length : range.length};
            return error;
        }
        if (!(*program)->windows.empty()) return fail(range, "OVER (…) cannot stand inside a summary.");
        return program;
    }

    Result<SummaryTerm> one() {
        const std::size_t start = peek().range.offset;
        const Token word = peek();
        std::string upper = word.text;
        std::transform(upper.begin(), upper.end(), upper.begin(),
                       [](char c) { return c >= 'a' && c <= 'z' ? static_cast<char>(c - 32) : c; });
        const auto known = std::find_if(kNames.begin(), kNames.end(), [&](const Named& n) { return n.name == upper; });
        if (word.kind != TokenKind::Name || known == kNames.end() || !peek(1).isSymbol("(")) {
            std::vector<std::string> names;
            for (const Named& n : kNames) names.emplace_back(n.name);
            const auto near = nearestName(upper, names);
            return fail(word.range, fmt::format("A summary is expected, such as SUM(hours).{}",
                                                near ? fmt::format(" Did you mean {}?", *near) : ""));
        }
        SummaryTerm term;
        term.kind = known->kind;
        at_ += 2;
        if (auto arguments = readArguments(term); !arguments) return arguments.error();
        if (acceptWords({"FILTER"})) {
            if (!accept("(") || !acceptWords({"WHERE"}))
                return fail(peek().range, "FILTER is written FILTER (WHERE condition).");
            const auto range = upToClosing();
            if (!range) return range.error();
            auto filter = compiled(*range, RuleKind::Boolean);
            if (!filter) return filter.error();
            term.filter = std::move(*filter);
        }
        const Token& last = tokens_[at_ - 1];
        term.name = text_.substr(start, last.range.offset + last.range.length - start);
        if (acceptWords({"AS"})) {
            if (peek().kind != TokenKind::Name && peek().kind != TokenKind::QuotedName)
                return fail(peek().range, "A name stands behind AS.");
            term.name = peek().text;
            ++at_;
        }
        if (auto typed = settleType(term, word); !typed) return typed.error();
        return term;
    }

    Result<void> readArguments(SummaryTerm& term) {
        if (isPercentile(term.kind)) {
            const Token& number = peek();
            const auto [end, problem] =
                std::from_chars(number.text.data(), number.text.data() + number.text.size(), term.fraction);
            const bool whole = problem == std::errc() && end == number.text.data() + number.text.size();
            if (number.kind != TokenKind::Number || !whole || term.fraction < 0 || term.fraction > 1)
                return fail(number.range, "A percentile takes a number from 0 to 1, e.g. PERCENTILE_CONT(0.5).");
            ++at_;
            if (!accept(")") || !acceptWords({"WITHIN", "GROUP"}) || !accept("(") || !acceptWords({"ORDER", "BY"}))
                return fail(peek().range,
                            "A percentile is written PERCENTILE_CONT(0.5) WITHIN GROUP (ORDER BY value).");
        } else if (term.kind == SummaryKind::Count && peek().isSymbol("*") && peek(1).isSymbol(")")) {
            at_ += 2;
            return {};
        } else if (acceptWords({"DISTINCT"})) {
            if (term.kind != SummaryKind::Count) return fail(peek().range, "DISTINCT stands in COUNT only.");
            term.kind = SummaryKind::CountDistinct;
        }
        const auto range = upToClosing();
        if (!range) return range.error();
        auto argument = compiled(*range, std::nullopt);
        if (!argument) return argument.error();
        term.argument = std::move(*argument);
        return {};
    }

    static Result<void> settleType(SummaryTerm& term, const Token& word) {
        const RuleType of = term.argument ? term.argument->type() : RuleType{RuleKind::Integer, 0};
        const bool real = of.kind == RuleKind::Real;
        switch (term.kind) {
            case SummaryKind::Count:
            case SummaryKind::CountDistinct: term.type = {RuleKind::Integer, 0}; return {};
            case SummaryKind::Minimum:
            case SummaryKind::Maximum:
            case SummaryKind::PercentileDiscrete: term.type = of; return {};
            case SummaryKind::Sum:
            case SummaryKind::Average:
            case SummaryKind::Variance:
            case SummaryKind::VariancePopulation:
                term.type = real ? of : RuleType{RuleKind::Decimal, RuleType::kVaries};
                break;
            case SummaryKind::Deviation:
            case SummaryKind::DeviationPopulation:
            case SummaryKind::PercentileContinuous: term.type = {RuleKind::Real, 0}; break;
        }
        if (isNumber(of.kind)) return {};
        return fail(word.range, fmt::format("{} takes numbers, not {}.", jollyrow::name(term.kind), article(of.kind)));
    }

    std::string_view text_;
    std::vector<Token> tokens_;
    const TableSchema& schema_;
    const RuleVocabulary& vocabulary_;
    std::size_t at_ = 0;
};

}  // namespace

std::string_view name(SummaryKind kind) {
    if (kind == SummaryKind::CountDistinct) return "COUNT(DISTINCT)";
    for (const Named& n : kNames)
        if (n.kind == kind) return n.name;
    return {};
}

Result<std::vector<SummaryTerm>> parseSummaryList(std::string_view text, const TableSchema& schema,
                                                  const RuleVocabulary& vocabulary) {
    auto tokens = tokensOf(text);
    if (!tokens) return tokens.error();
    return SummaryParser(text, std::move(*tokens), schema, vocabulary).run();
}

}  // namespace jollyrow
