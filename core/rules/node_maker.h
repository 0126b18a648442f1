// SPDX-License-Identifier: MIT
#pragma once
// Appends the nodes of a syntax tree, children before parents, and knows rows of values, (a, b): they are no node but
// the list of their values, from which a comparison makes comparisons of single values (ISO/IEC 9075-2, 8.2).

#include <fmt/format.h>

#include <algorithm>
#include <limits>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "core/rules/syntax.h"
#include "core/rules/token_reader.h"
#include "core/rules/type_reader.h"

namespace jollyrow {

using NodeIndex = std::uint32_t;

inline std::string upperWord(std::string_view text) {
    std::string out(text);
    std::transform(out.begin(), out.end(), out.begin(),
                   [](char c) { return c >= 'a' && c <= 'z' ? static_cast<char>(c - 32) : c; });
    return out;
}

class NodeMaker : protected TokenReader {
  protected:
    NodeMaker(std::vector<Token> tokens, const SyntaxLimits& limits)
        : TokenReader(std::move(tokens)), limits_(limits) {}

    Result<NodeIndex> add(SyntaxNode node) {
        if (nodes_.size() >= limits_.nodes)
            return Error{ErrorCode::InvalidInput, fmt::format("This rule has more than {} parts.", limits_.nodes),
                         node.range};
        for (const NodeIndex child : node.children)
            if (isRow(child)) return rowMisplaced(node.range);
        nodes_.push_back(std::move(node));
        return static_cast<NodeIndex>(nodes_.size() - 1);
    }
    Result<NodeIndex> operation(Op op, std::vector<NodeIndex> children, std::size_t start) {
        SyntaxNode node{SyntaxKind::Operation, op};
        node.children = std::move(children);
        node.range = rangeFrom(start);
        return add(std::move(node));
    }
    Result<NodeIndex> call(std::string name, std::vector<NodeIndex> children, std::size_t start) {
        SyntaxNode node{SyntaxKind::Call};
        node.text = std::move(name);
        node.children = std::move(children);
        node.range = rangeFrom(start);
        return add(std::move(node));
    }
    Result<NodeIndex> literal(RuleValue value, std::size_t start) {
        SyntaxNode node{SyntaxKind::Literal};
        node.literal = std::move(value);
        node.range = rangeFrom(start);
        return add(std::move(node));
    }
    Result<NodeIndex> castTo(const WrittenType& type, NodeIndex value, TextRange range) {
        SyntaxNode node{SyntaxKind::Cast};
        node.children = {value};
        node.text = type.name;
        node.precision = type.precision;
        node.scale = type.scale;
        node.range = range;
        return add(std::move(node));
    }
    Result<NodeIndex> negatedIf(bool isNegated, Result<NodeIndex> node, std::size_t start) {
        return node && isNegated ? operation(Op::Not, {*node}, start) : node;
    }
    /// The nodes of one expression, which end with its root; what comes next starts afresh.
    Result<Syntax> take(NodeIndex root) {
        if (isRow(root)) return rowMisplaced(rangeFrom(0));
        Syntax out;
        if (root != nodes_.size() - 1) nodes_.resize(root + 1);
        out.nodes = std::move(nodes_);
        nodes_.clear();
        rows_.clear();
        return out;
    }

    // ---- rows of values
    static constexpr NodeIndex kRow = NodeIndex{1} << 31;
    static bool isRow(NodeIndex index) { return (index & kRow) != 0; }
    NodeIndex row(std::vector<NodeIndex> values) {
        rows_.push_back(std::move(values));
        return kRow | static_cast<NodeIndex>(rows_.size() - 1);
    }
    const std::vector<NodeIndex>& valuesOf(NodeIndex row) const { return rows_[row & ~kRow]; }
    static Error rowMisplaced(TextRange range) {
        return {ErrorCode::InvalidInput,
                "Rows of values are compared with = <> < <= > >=, IN, BETWEEN, IS NULL and OVERLAPS; nothing else "
                "takes them.",
                range};
    }

    /// Compares two values, or two rows place by place: the first pair that differs settles it.
    Result<NodeIndex> comparisonOf(Op op, NodeIndex left, NodeIndex right, std::size_t start) {
        if (!isRow(left) && !isRow(right)) return operation(op, {left, right}, start);
        if (!isRow(left) || !isRow(right)) return rowMisplaced(rangeFrom(start));
        const std::vector<NodeIndex> a = valuesOf(left), b = valuesOf(right);
        if (a.size() != b.size())
            return Error{ErrorCode::InvalidInput,
                         fmt::format("These rows have {} and {} values; they must have as many.", a.size(), b.size()),
                         rangeFrom(start)};
        const bool isOrder = op != Op::Equal && op != Op::NotEqual && op != Op::Distinct;
        const Op strict = op == Op::LessEqual ? Op::Less : op == Op::GreaterEqual ? Op::Greater : op;
        const Op joined = op == Op::Equal ? Op::And : Op::Or;
        auto all = operation(op, {a.back(), b.back()}, start);
        for (std::size_t i = a.size() - 1; all && i-- > 0;) {
            auto first = operation(isOrder ? strict : op, {a[i], b[i]}, start);
            if (!first) return first;
            if (isOrder) {
                auto same = operation(Op::Equal, {a[i], b[i]}, start);
                if (!same) return same;
                all = operation(Op::And, {*same, *all}, start);
                if (!all) return all;
            }
            all = operation(joined, {*first, *all}, start);
        }
        return all;
    }
    /// A row is NULL when all of its values are, and NOT NULL when none of them is: not one the reverse of the other.
    Result<NodeIndex> nullTest(NodeIndex value, bool isNegated, std::size_t start) {
        if (!isRow(value)) return negatedIf(isNegated, operation(Op::IsNull, {value}, start), start);
        std::optional<NodeIndex> all;
        const std::vector<NodeIndex> values = valuesOf(value);
        for (const NodeIndex one : values) {
            auto test = nullTest(one, isNegated, start);
            if (test && all) test = operation(Op::And, {*all, *test}, start);
            if (!test) return test;
            all = *test;
        }
        return *all;
    }

    struct Deeper {
        explicit Deeper(int& d) : depth(d) { ++depth; }
        ~Deeper() { --depth; }
        int& depth;
    };

    SyntaxLimits limits_;
    int depth_ = 0;
    std::vector<SyntaxNode> nodes_;
    std::vector<std::vector<NodeIndex>> rows_;
};

}  // namespace jollyrow
