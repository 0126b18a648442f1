// SPDX-License-Identifier: MIT
#pragma once
// Aggregates OVER (…) as instructions: what each takes and gives, its order, its frame.

#include <vector>

#include "core/rules/function_maker.h"

namespace jollyrow {

class WindowInstructions : protected FunctionMaker {
  protected:
    WindowInstructions(const TableSchema& schema, const RuleVocabulary& vocabulary)
        : FunctionMaker(schema), vocabulary_(vocabulary) {}

    Result<Ref> window(const SyntaxNode& node, const std::vector<Ref>& children);

    const RuleVocabulary& vocabulary_;

  private:
    Result<void> readSpec(const SyntaxNode& node, const std::vector<Ref>& children, WindowSpec& spec);
    Result<void> checkForm(const SyntaxNode& node, const WindowSpec& spec) const;
    Result<void> readOrder(const SyntaxNode& node, WindowSpec& spec);
    Result<void> readDistances(const SyntaxNode& node, WindowSpec& spec);
    /// Fits the arguments and settles what the aggregate gives.
    Result<void> settle(const SyntaxNode& node, WindowSpec& spec);
    Result<void> settleSum(const SyntaxNode& node, WindowSpec& spec);
    Result<void> settlePlace(const SyntaxNode& node, WindowSpec& spec);
    /// Does it, or what it is made of, come from an instruction of this kind?
    bool comesFrom(Ref root, Op op) const;
};

}  // namespace jollyrow
