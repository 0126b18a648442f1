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
#include "core/rules/conversion.h"
#include "core/rules/lexer.h"
#include "core/rules/syntax.h"

namespace jollyrow {
namespace {

struct Named {
    std::string_view name;
    SummaryKind kind;
};
constexpr std::array<Named, 32> kNames = {{{"COUNT", SummaryKind::Count},
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
                                           {"PERCENTILE_DISC", SummaryKind::PercentileDiscrete},
                                           {"FIRST_VALUE", SummaryKind::First},
                                           {"LAST_VALUE", SummaryKind::Last},
                                           {"BOOL_AND", SummaryKind::Every},
                                           {"EVERY", SummaryKind::Every},
                                           {"BOOL_OR", SummaryKind::AnyOf},
                                           {"STRING_AGG", SummaryKind::Joined},
                                           {"MODE", SummaryKind::Mode},
                                           {"CORR", SummaryKind::Correlation},
                                           {"COVAR_SAMP", SummaryKind::CovarianceSample},
                                           {"COVAR_POP", SummaryKind::CovariancePopulation},
                                           {"REGR_COUNT", SummaryKind::RegressionCount},
                                           {"REGR_AVGX", SummaryKind::RegressionMeanX},
                                           {"REGR_AVGY", SummaryKind::RegressionMeanY},
                                           {"REGR_SLOPE", SummaryKind::RegressionSlope},
                                           {"REGR_INTERCEPT", SummaryKind::RegressionIntercept},
                                           {"REGR_R2", SummaryKind::RegressionFit},
                                           {"REGR_SXX", SummaryKind::RegressionXX},
                                           {"REGR_SYY", SummaryKind::RegressionYY},
                                           {"REGR_SXY", SummaryKind::RegressionXY}}};

bool isPercentile(SummaryKind kind) {
    return kind == SummaryKind::PercentileContinuous || kind == SummaryKind::PercentileDiscrete;
}

bool isOfPairs(SummaryKind kind) { return kind >= SummaryKind::Correlation && kind <= SummaryKind::RegressionXY; }

/// The values of an enum in their order, where a program is one column of such; else null.
const std::vector<std::string>* enumOf(const Program& program, const TableSchema& schema) {
    const Instruction& root = program.code.back();
    if (root.op != Op::Load) return nullptr;
    const FieldSchema& field = schema.field(static_cast<FieldIndex>(root.index));
    return field.ordered && !field.permitted.empty() ? &field.permitted : nullptr;
}

class SummaryParser {
  public:
    SummaryParser(std::string_view text, std::vector<Token> tokens, const TableSchema& schema,
                  const RuleVocabulary& vocabulary)
        : text_(text), tokens_(std::move(tokens)), schema_(schema), vocabulary_(vocabulary) {}

    Result<std::vector<SummaryRule>> run() {
        std::vector<SummaryRule> rules;
        if (peek().kind == TokenKind::End) return rules;
        for (;;) {
            auto rule = item();
            if (!rule) return rule.error();
            rules.push_back(std::move(*rule));
            if (peek().kind == TokenKind::End) return rules;
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

    /// What stands up to the bracket that closes the present one, which is taken too; or, inside of an aggregate, up to
    /// the comma or ORDER BY behind its argument, which is not.
    Result<TextRange> upToClosing(bool isArgument = false) {
        const std::size_t start = peek().range.offset;
        std::size_t end = start;
        for (int depth = 0; peek().kind != TokenKind::End; ++at_) {
            const bool ends = peek().isSymbol(",") || (peek().isWord("ORDER") && peek(1).isWord("BY"));
            isClosed_ = !(isArgument && depth == 0 && ends);
            if (!isClosed_) return TextRange{start, end - start};
            if (peek().isSymbol("(")) ++depth;
            if (peek().isSymbol(")") && depth-- == 0) {
                ++at_;
                return TextRange{start, end - start};
            }
            end = peek().range.offset + peek().range.length;
        }
        return fail(peek().range, "A closing bracket is missing.");
    }

    Result<std::shared_ptr<const Program>> compiled(TextRange range, std::optional<RuleKind> expected,
                                                    bool isSortKey = false) const {
        BindOptions options;
        options.expected = expected;
        options.isSortKey = isSortKey;
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

    static std::string upper(std::string text) {
        std::transform(text.begin(), text.end(), text.begin(),
                       [](char c) { return c >= 'a' && c <= 'z' ? static_cast<char>(c - 32) : c; });
        return text;
    }
    const std::shared_ptr<const ExternalAggregate>* externalNamed(const std::string& name) const {
        for (const auto& external : vocabulary_.aggregates)
            if (upper(external->name) == name) return &external;
        return nullptr;
    }
    /// Does an aggregate begin here? One OVER (…) is none: it is a rule of records.
    bool atAggregate() const {
        if (peek().kind != TokenKind::Name || !peek(1).isSymbol("(")) return false;
        const std::string name = upper(peek().text);
        return externalNamed(name) ||
               std::any_of(kNames.begin(), kNames.end(), [&](const Named& n) { return n.name == name; });
    }

    /// One summary up to the comma behind it: its aggregates, and what stands around them.
    Result<SummaryRule> item() {
        SummaryRule rule;
        const std::size_t start = peek().range.offset, firstToken = at_;
        std::string around;                                      // the text with a parameter for each aggregate
        std::vector<std::pair<std::size_t, std::size_t>> moved;  // from where in `around`, how far it stands off
        std::size_t copied = start, end = start;
        bool whole = false, isNamed = false;
        for (int depth = 0; peek().kind != TokenKind::End; ++at_) {
            if (depth == 0 && (peek().isSymbol(",") || peek().isWord("AS"))) break;
            if (whole && !goesOn() && (peek().kind == TokenKind::Name || peek().kind == TokenKind::Number))
                return fail(peek().range, "A comma stands between summaries.");
            if (peek().isSymbol("(")) ++depth;
            if (peek().isSymbol(")") && --depth < 0) break;
            if (atAggregate()) {
                const std::size_t from = peek().range.offset;
                const bool isFirst = at_ == firstToken;
                auto term = one();
                if (!term) return term.error();
                end = tokens_[at_ - 1].range.offset + tokens_[at_ - 1].range.length;
                around.append(text_.substr(copied, from - copied));
                around += figureText(aggregateName(rule.terms.size()));
                copied = end;
                moved.emplace_back(around.size(), copied);
                rule.terms.push_back(std::move(*term));
                whole = isFirst;
                isNamed = isNamed || places_;
                --at_;
                continue;
            }
            if (depth == 0 && (peek().kind == TokenKind::Name || peek().kind == TokenKind::QuotedName) && !whole &&
                at_ == firstToken && peek(1).isSymbol("(") && rule.terms.empty() && !looksLikeFunction())
                return notAnAggregate(peek());
            whole = false;
            end = peek().range.offset + peek().range.length;
        }
        rule.text = text_.substr(start, end - start);
        rule.name = rule.text;
        if (rule.terms.empty()) return notAnAggregate(tokens_[firstToken]);
        if (whole && !isNamed) {
            rule.type = rule.terms.front().type;
        } else {
            around.append(text_.substr(copied, end - copied));
            if (auto bound = bindOuter(rule, around, start, moved); !bound) return bound.error();
        }
        if (acceptWords({"AS"})) {
            if (peek().kind != TokenKind::Name && peek().kind != TokenKind::QuotedName)
                return fail(peek().range, "A name stands behind AS.");
            rule.name = peek().text;
            ++at_;
        }
        return rule;
    }

    /// How the rule around speaks of an aggregate: as a parameter; the extreme of an enum is a place among its values.
    std::string figureText(const std::string& parameter) const {
        if (!places_) return ":" + parameter;
        std::string text = "CASE :" + parameter;
        for (std::size_t i = 0; i < places_->size(); ++i)
            text += fmt::format(" WHEN {} THEN {}", i, constantText((*places_)[i]));
        return text + " END";
    }

    /// A word that may stand behind a value: "SUM(hours) IS NULL".
    bool goesOn() const {
        constexpr std::string_view kWords[] = {"IS", "NOT", "BETWEEN", "IN", "LIKE", "AND", "OR", "COLLATE", "AT"};
        return std::any_of(std::begin(kWords), std::end(kWords), [&](std::string_view w) { return peek().isWord(w); });
    }

    bool looksLikeFunction() const {
        return findFunction(upper(peek().text)) || peek().isWord("CASE") || peek().isWord("CAST") ||
               peek().isWord("EXTRACT");
    }

    static Error notAnAggregate(const Token& word) {
        std::vector<std::string> names;
        for (const Named& n : kNames) names.emplace_back(n.name);
        const auto near = nearestName(upper(word.text), names);
        return fail(word.range, fmt::format("A summary is expected, such as SUM(hours).{}",
                                            near ? fmt::format(" Did you mean {}?", *near) : ""));
    }

    Result<void> bindOuter(SummaryRule& rule, const std::string& around, std::size_t start,
                           const std::vector<std::pair<std::size_t, std::size_t>>& moved) const {
        RuleVocabulary vocabulary = vocabulary_;
        for (std::size_t i = 0; i < rule.terms.size(); ++i)
            vocabulary.parameters.push_back({aggregateName(i), rule.terms[i].type.kind});
        static const TableSchema kNothing;
        auto program = compileRule(around, kNothing, vocabulary);
        if (program) {
            rule.type = (*program)->type();
            rule.outer = std::move(*program);
            return {};
        }
        Error error = program.error();
        const std::vector<std::string> columns = columnsNamed(around);
        if (!columns.empty())
            error.message = fmt::format("{} stands outside an aggregate here; it is written SUM({}) or the like.",
                                        columns.front(), columns.front());
        std::size_t at = error.where ? error.where->offset : 0, origin = start + at;
        for (const auto& [from, source] : moved)
            if (at >= from) origin = source + (at - from);
        error.where = TextRange{std::min(origin, text_.size()), error.where ? error.where->length : 1};
        return error;
    }

    Result<SummaryTerm> one() {
        const std::size_t start = peek().range.offset;
        const Token word = peek();
        const std::string name = upper(word.text);
        SummaryTerm term;
        if (const auto* external = externalNamed(name)) {
            term.kind = SummaryKind::External;
            term.external = *external;
        } else {
            term.kind =
                std::find_if(kNames.begin(), kNames.end(), [&](const Named& n) { return n.name == name; })->kind;
        }
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
        term.text = text_.substr(start, last.range.offset + last.range.length - start);
        if (peek().isWord("OVER"))
            return fail(peek().range, "OVER (…) makes a value of each record; a summary has one for each group.");
        if (auto typed = settleType(term, word); !typed) return typed.error();
        return term;
    }

    Result<void> readDistinct(SummaryTerm& term) const {
        switch (term.kind) {
            case SummaryKind::Count: term.kind = SummaryKind::CountDistinct; return {};
            case SummaryKind::Sum:
            case SummaryKind::Average:
            case SummaryKind::Joined: term.distinct = true; return {};
            case SummaryKind::Minimum:
            case SummaryKind::Maximum:
            case SummaryKind::Every:
            case SummaryKind::AnyOf: return {};  // each value once makes no difference
            default: return fail(peek().range, "DISTINCT stands in COUNT, SUM, AVG, MIN, MAX and STRING_AGG only.");
        }
    }

    /// What stands behind the first argument: a second one, an order, the closing bracket.
    Result<void> readRest(SummaryTerm& term) {
        const bool takesTwo = term.kind == SummaryKind::Joined || isOfPairs(term.kind);
        if (isClosed_)
            return takesTwo ? Result<void>(fail(tokens_[at_ - 1].range, twoArguments(term))) : Result<void>();
        if (accept(",")) {
            if (!takesTwo) return fail(peek().range, fmt::format("{} takes one value.", jollyrow::name(term.kind)));
            const auto range = upToClosing(true);
            if (!range) return range.error();
            auto second =
                compiled(*range, term.kind == SummaryKind::Joined ? std::optional(RuleKind::Text) : std::nullopt);
            if (!second) return second.error();
            term.second = std::move(*second);
        }
        if (!isClosed_ && acceptWords({"ORDER", "BY"})) {
            if (term.kind != SummaryKind::Joined)
                return fail(peek().range, "ORDER BY stands in STRING_AGG only: no other figure depends on an order.");
            return readOrder(term);
        }
        return {};
    }
    static std::string twoArguments(const SummaryTerm& term) {
        return term.kind == SummaryKind::Joined
                   ? std::string("STRING_AGG is written STRING_AGG(text, ', ').")
                   : fmt::format("{} takes two numbers, (y, x).", jollyrow::name(term.kind));
    }

    Result<void> readOrder(SummaryTerm& term) {
        const auto range = upToClosing();
        if (!range) return range.error();
        auto keys = parseSortKeys(text_.substr(range->offset, range->length));
        if (!keys) return keys.error();
        for (const SyntaxSortKey& key : *keys) {
            BindOptions options;
            options.isSortKey = true;
            auto program = bindRule(key.expression, schema_, vocabulary_, options);
            if (!program) return program.error();
            if (!(*program)->windows.empty()) return fail(*range, "OVER (…) cannot stand inside a summary.");
            term.order.push_back({std::move(*program), key.descending, key.emptiesFirst});
        }
        return {};
    }

    Result<void> readArguments(SummaryTerm& term) {
        places_ = nullptr;
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
        } else if (term.kind == SummaryKind::Mode) {
            if (!accept(")") || !acceptWords({"WITHIN", "GROUP"}) || !accept("(") || !acceptWords({"ORDER", "BY"}))
                return fail(peek().range, "MODE is written MODE() WITHIN GROUP (ORDER BY value).");
        } else if (term.kind == SummaryKind::Count && peek().isSymbol("*") && peek(1).isSymbol(")")) {
            at_ += 2;
            return {};
        } else if (acceptWords({"DISTINCT"})) {
            if (auto done = readDistinct(term); !done) return done;
        }
        const auto range = upToClosing(true);
        if (!range) return range.error();
        auto argument = compiled(*range, std::nullopt);
        if (!argument) return argument.error();
        const bool isExtreme = term.kind == SummaryKind::Minimum || term.kind == SummaryKind::Maximum ||
                               term.kind == SummaryKind::PercentileDiscrete || term.kind == SummaryKind::Mode;
        places_ = isExtreme ? enumOf(**argument, schema_) : nullptr;
        if (places_) argument = compiled(*range, std::nullopt, true);
        if (!argument) return argument.error();
        if (auto rest = readRest(term); !rest) return rest;
        if (term.kind == SummaryKind::External && (*argument)->type().kind != term.external->argument) {
            const RuleKind wanted = term.external->argument;
            if (!isNumber(wanted) || !isNumber((*argument)->type().kind))
                return fail(*range, fmt::format("{} takes {}, not {}.", term.external->name, article(wanted),
                                                article((*argument)->type().kind)));
            const std::string cast = fmt::format("CAST(({}) AS {})", text_.substr(range->offset, range->length),
                                                 wanted == RuleKind::Real      ? "DOUBLE PRECISION"
                                                 : wanted == RuleKind::Integer ? "BIGINT"
                                                                               : "DECIMAL(38, 10)");
            argument = compileRule(cast, schema_, vocabulary_);
            if (!argument) return argument.error();
        }
        term.argument = std::move(*argument);
        return {};
    }

    Result<void> settleType(SummaryTerm& term, const Token& word) {
        const RuleType of = term.argument ? term.argument->type() : RuleType{RuleKind::Integer, 0};
        const bool real = of.kind == RuleKind::Real;
        if (isOfPairs(term.kind)) return settlePair(term, word);
        switch (term.kind) {
            case SummaryKind::Every:
            case SummaryKind::AnyOf:
                term.type = {RuleKind::Boolean, 0};
                if (of.kind == RuleKind::Boolean || of.kind == RuleKind::Null) return {};
                return fail(word.range,
                            fmt::format("{} takes conditions, not {}.", jollyrow::name(term.kind), article(of.kind)));
            case SummaryKind::Joined:
                term.type = {RuleKind::Text, 0};
                if (of.kind == RuleKind::Text || of.kind == RuleKind::Null) return {};
                return fail(word.range, fmt::format("STRING_AGG takes texts, not {}: CAST(… AS TEXT) makes one.",
                                                    article(of.kind)));
            case SummaryKind::Count:
            case SummaryKind::CountDistinct: term.type = {RuleKind::Integer, 0}; return {};
            case SummaryKind::Minimum:
            case SummaryKind::Maximum:
            case SummaryKind::First:
            case SummaryKind::Last:
            case SummaryKind::Mode:
            case SummaryKind::PercentileDiscrete: term.type = of; return {};
            case SummaryKind::External: term.type = {term.external->result, RuleType::kVaries}; return {};
            case SummaryKind::Sum:
                if (term.argument && sumsToWhole(term.argument->code,
                                                 static_cast<std::uint32_t>(term.argument->code.size() - 1), schema_)) {
                    term.type = {RuleKind::Integer, 0};
                    break;
                }
                [[fallthrough]];
            case SummaryKind::Average:
            case SummaryKind::Variance:
            case SummaryKind::VariancePopulation:
            case SummaryKind::Deviation:
            case SummaryKind::DeviationPopulation:
                term.type = real ? of : RuleType{RuleKind::Decimal, RuleType::kVaries};
                break;
            case SummaryKind::PercentileContinuous: term.type = {RuleKind::Real, 0}; break;
            default: break;
        }
        if (isNumber(of.kind)) return {};
        return fail(word.range, fmt::format("{} takes numbers, not {}.", jollyrow::name(term.kind), article(of.kind)));
    }

    static Result<void> settlePair(SummaryTerm& term, const Token& word) {
        for (const auto& side : {term.argument, term.second})
            if (side && !isNumber(side->type().kind) && side->type().kind != RuleKind::Null)
                return fail(word.range, fmt::format("{} takes numbers, not {}.", jollyrow::name(term.kind),
                                                    article(side->type().kind)));
        term.type = {term.kind == SummaryKind::RegressionCount ? RuleKind::Integer : RuleKind::Real, 0};
        return {};
    }

    std::string_view text_;
    std::vector<Token> tokens_;
    const TableSchema& schema_;
    const RuleVocabulary& vocabulary_;
    std::size_t at_ = 0;
    bool isClosed_ = false;                             ///< upToClosing() took the bracket
    const std::vector<std::string>* places_ = nullptr;  ///< of the aggregate read last, where it is an enum's extreme
};

}  // namespace

std::string_view name(SummaryKind kind) {
    if (kind == SummaryKind::CountDistinct) return "COUNT(DISTINCT)";
    for (const Named& n : kNames)
        if (n.kind == kind) return n.name;
    return {};
}

std::string aggregateName(std::size_t term) { return fmt::format("aggregate_{}_", term); }

Result<std::vector<SummaryRule>> parseSummaryList(std::string_view text, const TableSchema& schema,
                                                  const RuleVocabulary& vocabulary) {
    auto tokens = tokensOf(text);
    if (!tokens) return tokens.error();
    return SummaryParser(text, std::move(*tokens), schema, vocabulary).run();
}

Result<SummaryRule> parseSummary(std::string_view text, const TableSchema& schema, const RuleVocabulary& vocabulary) {
    auto rules = parseSummaryList(text, schema, vocabulary);
    if (!rules) return rules.error();
    if (rules->size() != 1)
        return Error{ErrorCode::InvalidInput, rules->empty() ? "A summary is expected, such as SUM(hours)."
                                                             : "This is one summary: no comma stands in it."};
    return std::move(rules->front());
}

std::vector<std::string> namesIn(std::string_view text) {
    std::vector<std::string> names;
    const auto tokens = tokensOf(text);
    if (!tokens) return names;
    std::string path;
    for (const Token& token : *tokens) {
        const bool isName = token.kind == TokenKind::Name || token.kind == TokenKind::QuotedName;
        if ((isName && (path.empty() || path.back() == '.')) || (!path.empty() && token.isSymbol("."))) {
            path += token.text;
            continue;
        }
        if (!path.empty()) names.push_back(std::exchange(path, isName ? token.text : std::string()));
    }
    return names;
}

std::vector<FieldIndex> fieldsOf(const SummaryTerm& term) {
    std::vector<FieldIndex> fields;
    eachProgram(term, [&](const auto& program) {
        fields.insert(fields.end(), program->fields.begin(), program->fields.end());
    });
    return fields;
}

std::vector<FieldIndex> fieldsOf(const SummaryRule& rule) {
    std::vector<FieldIndex> fields;
    for (const SummaryTerm& term : rule.terms) {
        const std::vector<FieldIndex> own = fieldsOf(term);
        fields.insert(fields.end(), own.begin(), own.end());
    }
    return fields;
}

}  // namespace jollyrow
