// SPDX-License-Identifier: MIT
// Covered by tests/design/field_names_test.cpp.
#include "core/design/field_names.h"

#include <algorithm>
#include <cctype>
#include <set>
#include <vector>

#include "core/base/near_name.h"
#include "core/design/condition.h"
#include "core/design/rule_texts.h"
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

    /// Fields in braces, with or without a format of their own. A name that cannot stand in braces (ICU's pattern
    /// syntax and white space) leaves them as they are, for a finding to say.
    void message(std::string& pattern) const {
        const auto isPlain = [](unsigned char c) { return c >= 0x80 || std::isalnum(c) || c == '_' || c == '.'; };
        if (!std::all_of(to_.begin(), to_.end(), isPlain)) return;
        std::string out;
        std::size_t copied = 0;
        for (std::size_t at = pattern.find('{'); at != std::string::npos; at = pattern.find('{', at + 1)) {
            const std::size_t start = pattern.find_first_not_of(' ', at + 1);
            const std::size_t end = start == std::string::npos ? start : pattern.find_first_of(" ,}{", start);
            if (end == std::string::npos) break;
            std::string argument = pattern.substr(start, end - start);
            name(argument);
            out.append(pattern, copied, start - copied).append(argument);
            copied = end;
        }
        pattern = out.append(pattern, copied);
    }

    void rule(std::string& text) const {
        std::set<TextRange, Before> places;
        if (const auto syntax = parseRule(text)) {
            for (const SyntaxNode& node : syntax->nodes)
                if (node.kind == SyntaxKind::Column && isMeant(firstOf(node.text), node.quoted))
                    places.insert({node.range.offset, lengthOfFirst(text, node.range)});
        } else if (const auto tokens = tokensOf(text)) {  // one over aggregates is read by its words
            for (std::size_t i = 0; i + 1 < tokens->size(); ++i)
                if (isColumn(*tokens, i) && isMeant((*tokens)[i].text, (*tokens)[i].kind == TokenKind::QuotedName))
                    places.insert((*tokens)[i].range);
        }
        std::string out;
        std::size_t copied = 0;
        for (const TextRange& place : places) {
            out.append(text, copied, place.offset - copied).append(fieldInRule(to_));
            copied = place.offset + place.length;
        }
        text = out.append(text, copied);
    }

  private:
    struct Before {
        bool operator()(const TextRange& a, const TextRange& b) const { return a.offset < b.offset; }
    };
    static std::string firstOf(const std::string& path) { return path.substr(0, path.find('.')); }
    bool isMeant(const std::string& written, bool quoted) const {
        return quoted ? written == from_ : sameName(written, from_);
    }
    /// Of a column's text the first name, in its quotes where it has some.
    static std::size_t lengthOfFirst(const std::string& text, const TextRange& column) {
        const auto tokens = tokensOf(text.substr(column.offset, column.length));
        return tokens && !tokens->empty() ? tokens->front().range.length : column.length;
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
    // An operator's own words, and the cell's value, are no fields.
    std::vector<std::string> own;
    for (const OperatorDesign& made : design.operators) own.push_back(made.rule);
    forEachRule(design, [&](std::string& rule) { renaming.rule(rule); });
    for (std::size_t i = 0; i < own.size(); ++i) {
        const auto& words = design.operators[i].arguments;
        const bool isOwn = sameName(from, "value") || std::any_of(words.begin(), words.end(), [&](const auto& word) {
                               return sameName(word, from);
                           });
        if (isOwn) design.operators[i].rule = own[i];
    }
}

}  // namespace jollyrow
