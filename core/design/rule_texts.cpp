// SPDX-License-Identifier: MIT
// Covered by tests/design/rule_texts_test.cpp.
#include "core/design/rule_texts.h"

#include "core/base/near_name.h"
#include "core/rules/lexer.h"
#include "core/rules/query_parameters.h"

namespace jollyrow {
namespace {

template <class Part, class Visit>
void ofPart(Part& part, const Visit& visit) {
    visit(part.shownWhen);
    for (auto& rule : part.rules) visit(rule.where);
    for (auto& inner : part.parts) ofPart(inner, visit);
}

template <class AnyDesign, class Visit>
void ofDesign(AnyDesign& design, const Visit& visit) {
    for (auto& column : design.columns) visit(column.rule);
    for (auto& part : design.filter) visit(part.rule);
    for (auto& key : design.sort) visit(key.rule);
    for (auto& rule : design.sortRules)
        for (auto& key : rule.keys) visit(key.rule);
    for (auto& group : design.groups) visit(group.key.rule);
    for (auto& summary : design.summaries) {
        visit(summary.rule);
        visit(summary.where);
    }
    for (auto& made : design.operators) visit(made.rule);
    for (auto& face : design.faces) ofPart(face.root, visit);
    for (auto& style : design.styles) visit(style.where);
    for (auto& banner : design.banners) visit(banner.where);
    for (auto& check : design.checks) visit(check.rule);
}

std::string withParameterRenamed(const std::string& rule, const std::string& from, const std::string& to) {
    const auto tokens = tokensOf(rule);
    if (!tokens) return rule;
    std::string out;
    std::size_t copied = 0;
    for (std::size_t i = 0; i + 1 < tokens->size(); ++i) {
        const Token& name = (*tokens)[i + 1];
        const bool isName = name.kind == TokenKind::Name || name.kind == TokenKind::QuotedName;
        if (!(*tokens)[i].isSymbol(":") || !isName || name.range.offset != (*tokens)[i].range.offset + 1) continue;
        if (!sameName(name.text, from)) continue;
        out.append(rule, copied, name.range.offset - copied).append(to);
        copied = name.range.offset + name.range.length;
    }
    return out.append(rule, copied);
}

}  // namespace

void forEachRule(Design& design, const std::function<void(std::string& rule)>& visit) { ofDesign(design, visit); }
void forEachRule(const Design& design, const std::function<void(const std::string& rule)>& visit) {
    ofDesign(design, visit);
}

void renameParameter(Design& design, const std::string& from, const std::string& to) {
    for (ParameterDesign& parameter : design.parameters)
        if (parameter.name == from) parameter.name = to;
    forEachRule(design, [&](std::string& rule) {
        if (rule.find(':') != std::string::npos) rule = withParameterRenamed(rule, from, to);
    });
    design.source.query = withParameterNamed(design.source.query, from, to);
}

bool isCalled(const Design& design, const std::string& name) {
    bool found = false;
    forEachRule(design, [&](const std::string& rule) {
        const auto tokens = found ? Result<std::vector<Token>>(std::vector<Token>()) : tokensOf(rule);
        for (std::size_t i = 0; tokens && i + 1 < tokens->size(); ++i)
            found = found || ((*tokens)[i].kind == TokenKind::Name && (*tokens)[i + 1].isSymbol("(") &&
                              sameName((*tokens)[i].text, name));
    });
    return found;
}

}  // namespace jollyrow
