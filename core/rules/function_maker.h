// SPDX-License-Identifier: MIT
#pragma once
// The built-in functions as instructions: what kinds each takes and gives.

#include <array>
#include <vector>

#include "core/rules/op.h"
#include "core/rules/ordering_maker.h"

namespace jollyrow {

class FunctionMaker : protected OrderingMaker {
  protected:
    using OrderingMaker::OrderingMaker;

    /// Requires: as many arguments as the shape says, and not MOD, which is arithmetic.
    Result<Ref> builtIn(const FunctionShape& shape, std::vector<Ref> children, TextRange range);

  private:
    /// The last kind is that of all arguments behind it, too.
    Result<void> fitAll(std::vector<Ref>& refs, const std::array<RuleKind, 3>& kinds, std::string_view forWhat);
    Result<void> fitKinds(std::vector<Ref>& refs, const std::vector<RuleKind>& kinds, std::string_view forWhat);
    /// Exact where an argument is a decimal and none is a double; whole numbers alone give a double, as there.
    Result<Ref> realOrExact(const FunctionShape& shape, std::vector<Ref> children, TextRange range);
    /// DIV of whole numbers is one, of anything else a decimal; WIDTH_BUCKET counts.
    Result<Ref> numbersOfOneKind(const FunctionShape& shape, std::vector<Ref> children, TextRange range);
    /// DATE_TRUNC of a date is that of its midnight, by the clocks of the zone.
    Result<Ref> truncatedTime(const FunctionShape& shape, std::vector<Ref> children, TextRange range);
    /// AGE(x) is counted from x to today's midnight.
    Result<Ref> age(const FunctionShape& shape, std::vector<Ref> children, TextRange range);
    Result<Ref> nullIf(const std::vector<Ref>& children, TextRange range);
    Result<Ref> concatenated(Op op, std::vector<Ref> children, TextRange range);
    /// CONCAT writes yes and no as t and f, unlike CAST.
    Result<Ref> oneLetter(Ref truth);
    Result<Ref> rounding(const FunctionShape& shape, std::vector<Ref> children, TextRange range);
    /// GREATEST and LEAST of an enum go by its order.
    Result<Ref> extreme(const FunctionShape& shape, std::vector<Ref> children, TextRange range);
    /// The functions of regular expressions have their arguments in one order, with what is left out filled in.
    Result<Ref> matching(const FunctionShape& shape, std::vector<Ref> children, TextRange range);
    Result<void> fillUp(std::vector<Ref>& children, const std::vector<RuleValue>& defaults, std::size_t from,
                        std::string_view forWhat, TextRange range);
    /// SUBSTRING(text FROM pattern) is what the pattern's first group finds, or the whole.
    Result<Ref> substring(const FunctionShape& shape, std::vector<Ref> children, TextRange range);
    /// TO_CHAR, of a number or of a moment.
    Result<Ref> written(std::vector<Ref> children, TextRange range);
    /// MAKE_TIMESTAMP and MAKE_TIMESTAMPTZ.
    Result<Ref> moment(const FunctionShape& shape, std::vector<Ref> children, TextRange range);
    /// TO_TIMESTAMP, of a text or of seconds.
    Result<Ref> readMoment(std::vector<Ref> children, TextRange range);
};

}  // namespace jollyrow
