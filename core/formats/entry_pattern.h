// SPDX-License-Identifier: MIT
#pragma once
// EntryPattern: what a text must look like: a regular expression of UTS #18, as ICU has them. Besides whether a text
// matches it tells whether one that is being typed still can, and what must follow.

#include <memory>
#include <string>
#include <string_view>

#include "core/base/result.h"

namespace jollyrow {

/// Immutable; any thread may use it. Patterns are not trusted: one that takes too long or too much is given up.
class EntryPattern final {
  public:
    /// Fails with what is wrong, and where in the pattern.
    static Result<std::shared_ptr<const EntryPattern>> make(const std::string& pattern);
    ~EntryPattern();

    enum class Fit {
        Whole,    ///< it matches
        Begun,    ///< it does not, but may when more is typed behind
        None,     ///< it cannot, whatever is typed behind
        Unknown,  ///< it took too long to tell
    };
    Fit fit(std::string_view text) const;
    /// A text that is being typed, with the characters behind it that alone can follow: "JO" -> "JOB-". At most 32.
    std::string filledIn(std::string text) const;

    struct Compiled;

  private:
    explicit EntryPattern(std::unique_ptr<Compiled> compiled);
    std::unique_ptr<Compiled> compiled_;
};

}  // namespace jollyrow
