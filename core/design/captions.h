// SPDX-License-Identifier: MIT
#pragma once
// Captions: how group lines and figures are put into words: the names of groups ("250 to 500", "Q4 2026"), and ICU
// message patterns over named values ("{value} jobs").

#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/result.h"
#include "core/design/design.h"
#include "core/formats/formatter.h"
#include "core/rules/evaluator.h"

namespace jollyrow {

/// One value a pattern may name: as text where it stands alone, as it is where it has a type ("{value, plural, …}").
struct CaptionValue {
    std::string text;
    Value value = Empty{};
};

/// A pattern made ready. Immutable; any thread.
class Caption final {
  public:
    struct Name {
        std::string name;
        Type type = Type::Text;
    };
    /// The error says what is wrong in the pattern and where.
    static Result<std::shared_ptr<const Caption>> make(const std::string& pattern, const std::vector<Name>& names,
                                                       const std::string& locale);
    /// Requires: values in the order of the names.
    void append(std::string& out, const std::vector<CaptionValue>& values) const;

  private:
    std::shared_ptr<const Formatter> formatter_;
};

/// Writes the keys of one level for people. Immutable; any thread.
class GroupNames final {
  public:
    /// `formatter` writes values of the field; null for those of a rule.
    GroupNames(const GroupDesign& group, TextFormat keyFormat, std::shared_ptr<const Formatter> formatter,
               const std::string& locale);
    /// Appends at most about 200 bytes, however long the key.
    void append(std::string& out, const EvaluatedCell& key) const;

  private:
    void appendValue(std::string& out, const RuleValue& value) const;
    void appendRange(std::string& out, std::size_t range) const;
    GroupBy by_;
    std::vector<std::string> cuts_;  ///< as they read
    TextFormat format_;
    std::shared_ptr<const Formatter> formatter_;
};

/// A figure of `format`'s type, rounded half away from zero to its decimals; failures in words.
void appendFigure(std::string& out, const EvaluatedCell& cell, const Formatter& formatter);

}  // namespace jollyrow
