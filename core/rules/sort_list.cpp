// SPDX-License-Identifier: MIT
#include "core/rules/sort_list.h"

#include <fmt/format.h>

namespace jollyrow {

namespace {

Result<std::vector<SortTerm>> parseKeys(std::string_view text, const TableSchema& schema,
                                        const RuleVocabulary& vocabulary, bool isSort) {
    auto keys = parseSortKeys(text);
    if (!keys) return keys.error();
    std::vector<SortTerm> terms;
    for (const SyntaxSortKey& key : *keys) {
        SortTerm term;
        term.direction = key.descending ? Direction::Descending : Direction::Ascending;
        term.empties = key.emptiesFirst ? Empties::First : Empties::Last;
        const SyntaxNode& root = key.expression.root();
        if (key.expression.nodes.size() == 1 && root.kind == SyntaxKind::Column) {
            term.field = findField(schema, root.text, root.quoted);
            if (term.field && schema.field(*term.field).type == Type::Interval) term.field.reset();  // by its length
            if (term.field) {
                const Type type = schema.field(*term.field).type;
                if (type == Type::Binary || type == Type::NumberList)
                    return Error{ErrorCode::InvalidInput,
                                 fmt::format("{} holds {}, which has no order.", root.text, article(type)), root.range};
                if (schema.field(*term.field).ordered) term.values = schema.field(*term.field).permitted;
                terms.push_back(std::move(term));
                continue;
            }
        }
        BindOptions options;
        options.isSortKey = isSort;
        if (auto collated = isSort ? std::nullopt : whyNoGroups(key.expression)) return *collated;
        auto program = bindRule(key.expression, schema, vocabulary, options);
        if (!program) return program.error();
        term.program = std::move(*program);
        term.rule = std::string(text.substr(key.range.offset, key.range.length));
        terms.push_back(std::move(term));
    }
    return terms;
}

}  // namespace

std::optional<Error> whyNoGroups(const Syntax& rule) {
    if (rule.root().kind != SyntaxKind::Collate) return std::nullopt;
    return Error{ErrorCode::InvalidInput, "COLLATE orders texts; groups are told apart by them: leave it out.",
                 rule.root().range};
}

Result<std::vector<SortTerm>> parseSortList(std::string_view text, const TableSchema& schema,
                                            const RuleVocabulary& vocabulary) {
    return parseKeys(text, schema, vocabulary, true);
}

Result<std::vector<SortTerm>> parseGroupList(std::string_view text, const TableSchema& schema,
                                             const RuleVocabulary& vocabulary) {
    return parseKeys(text, schema, vocabulary, false);
}

}  // namespace jollyrow
