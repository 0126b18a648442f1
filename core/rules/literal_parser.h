// SPDX-License-Identifier: MIT
#pragma once
// Values as they are written: numbers, texts, names, parameters, DATE '2026-11-24'.

#include <string>

#include "core/rules/node_maker.h"

namespace jollyrow {

class LiteralParser : protected NodeMaker {
  protected:
    using NodeMaker::NodeMaker;

    Result<NodeIndex> number();
    Result<NodeIndex> parameter();
    Result<NodeIndex> column();
    /// DATE '2026-11-24': a value known at once. Where its kind depends on the zone, or needs no more than any
    /// conversion of a text, it is a CAST.
    Result<NodeIndex> typedLiteral();

  private:
    Result<NodeIndex> momentLiteral(RuleKind kind, const Token& text, std::size_t start);
    Result<NodeIndex> intervalLiteral(const Token& text, std::size_t start);
};

}  // namespace jollyrow
