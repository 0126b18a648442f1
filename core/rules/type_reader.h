// SPDX-License-Identifier: MIT
#pragma once
// The types of the language as they are written, in CAST(… AS type), value::type and type 'literal'. Names are those
// of ISO/IEC 9075-2, 6.1, and the short ones that both databases know.

#include <cstddef>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/result.h"
#include "core/rules/lexer.h"
#include "core/rules/rule_type.h"

namespace jollyrow {

struct NamedType {
    std::string_view name;  ///< upper case, one blank between words
    RuleKind kind = RuleKind::Null;
    std::uint8_t numbers = 0;  ///< how many may stand in brackets
    std::uint8_t bits = 0;     ///< of a whole number or a double that has fewer than 64 of them
    bool blankPadded = false;  ///< CHAR(n): blanks at its end do not count
};
const NamedType* namedType(std::string_view upperName);

struct WrittenType {
    std::string name;  ///< one that namedType() knows, or a single word that it does not
    int precision = -1;
    int scale = -1;
    TextRange range;
};
/// How many tokens from `at` on name a type, without its brackets; 0 when they name none.
std::size_t typeWordsAt(const std::vector<Token>& tokens, std::size_t at);
/// Reads a type and moves `at` behind it.
Result<WrittenType> readType(const std::vector<Token>& tokens, std::size_t& at);

}  // namespace jollyrow
