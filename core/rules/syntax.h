// SPDX-License-Identifier: MIT
#pragma once
// Syntax: the tree of a rule as it was written. Knows words and operators, no columns and no types.

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/result.h"
#include "core/rules/op.h"
#include "core/rules/rule_type.h"
#include "core/rules/window_frame.h"

namespace jollyrow {

enum class SyntaxKind : std::uint8_t {
    Literal,    ///< `literal`
    Column,     ///< `text`, "vessel.name" when dotted
    Parameter,  ///< `text` without the colon
    Operation,  ///< `op` over the children
    Call,       ///< a function by name, `text` in upper case as written
    Extract,    ///< `text` is the part
    Cast,       ///< `text` is the type, `precision` and `scale` as far as given
    Window,     ///< `text` is the aggregate; children: arguments, partition, order, distances of the frame's bounds
    Collate,    ///< `text` is the collation
};

struct SyntaxNode {
    SyntaxKind kind = SyntaxKind::Literal;
    Op op{};
    bool quoted = false;  ///< a column in double quotes: its case counts
    std::string text = {};
    RuleValue literal = {};
    std::vector<std::uint32_t> children = {};
    TextRange range = {};
    int precision = -1;
    int scale = -1;
    std::uint32_t arguments = 0;        ///< of a Window: how many of the children are arguments
    std::uint32_t partitions = 0;       ///< and how many the partition
    std::vector<bool> descending = {};  ///< by order key
    std::vector<bool> emptiesFirst = {};
    std::optional<WindowFrame> frame = {};  ///< as far as it was written
};

/// Children always stand before their parents, and a node may be the child of several, so that a pass over the tree
/// is a loop. Immutable once parsed.
struct Syntax {
    std::vector<SyntaxNode> nodes;  ///< the last one is the root
    const SyntaxNode& root() const { return nodes.back(); }
    /// One line, fully parenthesised; for tests.
    std::string dump() const;
};

struct SyntaxLimits {
    int depth = 200;            ///< brackets and operators inside one another
    std::size_t nodes = 20000;  ///< names, values and operators
};

/// Parses one value expression or search condition (ISO/IEC 9075-2, clauses 6 and 8; precedence as PostgreSQL has it).
/// Errors carry the place. O(length).
Result<Syntax> parseRule(std::string_view text, const SyntaxLimits& limits = {});

/// One key of a sort specification list.
struct SyntaxSortKey {
    Syntax expression;
    bool descending = false;
    bool emptiesFirst = false;
    TextRange range;
};
/// `expression [ASC | DESC] [NULLS FIRST | NULLS LAST], …`; nothing gives no keys.
Result<std::vector<SyntaxSortKey>> parseSortKeys(std::string_view text, const SyntaxLimits& limits = {});

/// The columns a rule names, dotted ones as "vessel.name"; each once. Empty for a text that is no rule.
std::vector<std::string> columnsNamed(std::string_view rule);

}  // namespace jollyrow
