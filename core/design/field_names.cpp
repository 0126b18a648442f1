// SPDX-License-Identifier: MIT
// Covered by tests/design/field_names_test.cpp.
#include "core/design/field_names.h"

#include <algorithm>
#include <map>
#include <optional>
#include <set>
#include <vector>

#include "core/base/near_name.h"
#include "core/design/condition.h"
#include "core/design/rule_texts.h"
#include "core/formats/message_names.h"
#include "core/rules/lexer.h"
#include "core/rules/syntax.h"

namespace jollyrow {
namespace {

class Renaming {
  public:
    Renaming(const std::string& from, const std::string& to) : from_(from), to_(to) {}

    void name(std::string& field) const {
        if (field == from_)
            field = to_;
        else if (field.size() > from_.size() && field.compare(0, from_.size(), from_) == 0 &&
                 field[from_.size()] == '.')
            field = to_ + field.substr(from_.size());
    }

    /// A name that cannot stand in braces leaves them as they are, for a finding to say.
    void message(std::string& pattern) const {
        if (!canStandInBraces(to_)) return;
        pattern = withNamesRenamed(pattern, [this](std::string named) {
            name(named);
            return named;
        });
    }

    void rule(std::string& text) const {
        const auto tokens = tokensOf(text);
        if (!tokens) return;
        std::set<std::size_t> columns;  // where columns begin
        if (const auto syntax = parseRule(text)) {
            for (const SyntaxNode& node : syntax->nodes)
                if (node.kind == SyntaxKind::Column) columns.insert(node.range.offset);
        } else {  // one over aggregates is read by its words
            for (std::size_t i = 0; i + 1 < tokens->size(); ++i)
                if (isColumn(*tokens, i)) columns.insert((*tokens)[i].range.offset);
        }
        std::string out;
        std::size_t copied = 0;
        for (std::size_t i = 0; i < tokens->size(); ++i) {
            const std::size_t begin = (*tokens)[i].range.offset;
            const auto last = columns.contains(begin) ? lastOf(*tokens, i) : std::nullopt;
            if (!last) continue;
            out.append(text, copied, begin - copied).append(fieldInRule(to_));
            copied = (*tokens)[*last].range.offset + (*tokens)[*last].range.length;
        }
        text = out.append(text, copied);
    }

  private:
    /// The token with which the name ends that begins here, where it is the one that is renamed, or begins with it.
    std::optional<std::size_t> lastOf(const std::vector<Token>& tokens, std::size_t at) const {
        for (std::size_t begin = 0;; at += 2) {
            const std::size_t end = std::min(from_.find('.', begin), from_.size());
            const std::string part = from_.substr(begin, end - begin);
            const Token& token = tokens[at];
            const bool isPart = token.kind == TokenKind::QuotedName
                                    ? token.text == part
                                    : token.kind == TokenKind::Name && sameName(token.text, part);
            if (!isPart) return std::nullopt;
            if (end == from_.size()) return at;
            if (at + 2 >= tokens.size() || !tokens[at + 1].isSymbol(".")) return std::nullopt;
            begin = end + 1;
        }
    }
    static bool isColumn(const std::vector<Token>& tokens, std::size_t at) {
        const bool isName = tokens[at].kind == TokenKind::Name || tokens[at].kind == TokenKind::QuotedName;
        const bool isOfAnother = at > 0 && (tokens[at - 1].isSymbol(".") || tokens[at - 1].isSymbol(":"));
        return isName && !isOfAnother && !tokens[at + 1].isSymbol("(");
    }

    const std::string& from_;
    const std::string& to_;
};

void renameIn(FacePart& part, const Renaming& renaming) {
    renaming.name(part.field);
    for (std::string& field : part.bar.fields) renaming.name(field);
    for (std::string* pattern : {&part.text, &part.toolTip, &part.opens}) renaming.message(*pattern);
    renaming.message(part.format.pattern);
    for (FacePart& inner : part.parts) renameIn(inner, renaming);
}

void renameInColumns(Design& design, const Renaming& renaming) {
    for (ColumnDesign& column : design.columns) {
        renaming.name(column.field);
        renaming.name(column.under);
        if (column.format.style == FormatStyle::Message) renaming.message(column.format.pattern);
    }
    for (TierDesign& tier : design.tiers) renaming.name(tier.lead);
    std::map<std::string, ReadAs> forms;
    for (auto& [field, form] : design.source.readAs) {
        std::string now = field;
        renaming.name(now);
        forms.emplace(std::move(now), std::move(form));
    }
    design.source.readAs = std::move(forms);
    renaming.name(design.grid.version);
    renaming.name(design.grid.changedBy);
}

void renameInStages(Design& design, const Renaming& renaming) {
    for (SortDesign& key : design.sort) renaming.name(key.field);
    for (SortRuleDesign& rule : design.sortRules)
        for (SortDesign& key : rule.keys) renaming.name(key.field);
    for (FilterDesign& part : design.filter) renaming.name(part.field);
    for (GroupDesign& group : design.groups) renaming.name(group.key.field);
    for (SummaryDesign& summary : design.summaries)
        for (std::string* field : {&summary.column, &summary.of, &summary.weight}) renaming.name(*field);
}

void renameInLooks(Design& design, const Renaming& renaming) {
    for (StyleDesign& style : design.styles)
        for (std::string& field : style.columns) renaming.name(field);
    for (FaceDesign& face : design.faces) renameIn(face.root, renaming);
    for (BannerDesign& banner : design.banners) renaming.message(banner.caption);
    for (ParameterDesign& parameter : design.parameters) renaming.name(parameter.like);
    for (CheckDesign& check : design.checks) {
        renaming.name(check.field);
        renaming.message(check.message);
    }
}

}  // namespace

void renameField(Design& design, const std::string& from, const std::string& to) {
    const Renaming renaming(from, to);
    renameInColumns(design, renaming);
    renameInStages(design, renaming);
    renameInLooks(design, renaming);
    // Within operators, styles and faces `value` is the cell's, and an operator's own words are no fields.
    const bool isValue = sameName(from, "value");
    const Design named = design;
    forEachRule(design, [&](std::string& rule) { renaming.rule(rule); });
    if (isValue) design.styles = named.styles;
    if (isValue) design.faces = named.faces;
    for (std::size_t i = 0; i < design.operators.size(); ++i) {
        const auto& words = design.operators[i].arguments;
        const bool isOwn =
            std::any_of(words.begin(), words.end(), [&](const auto& word) { return sameName(word, from); });
        if (isOwn || isValue) design.operators[i] = named.operators[i];
    }
}

}  // namespace jollyrow
