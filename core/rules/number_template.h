// SPDX-License-Identifier: MIT
#pragma once
// Patterns of TO_CHAR and TO_NUMBER: '999G990D00', 'S9.99', 'FM9,990.0', '9.99PR', 'RN', '9.99EEEE', as PostgreSQL
// documents them ("Template Patterns for Numeric Formatting"). D and G are the point and the comma.

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/columns/wide_decimal.h"

namespace jollyrow {

struct NumberNode {
    enum class Kind : std::uint8_t {
        Nine,
        Zero,
        Point,
        Comma,
        Minus,     ///< MI
        Plus,      ///< PL
        Sign,      ///< SG
        Currency,  ///< L: none is known, so a blank
        Roman,
        RomanLower,
        Ordinal,
        OrdinalLower,
        Text,
    };
    Kind kind = Kind::Text;
    std::string text = {};
};

struct NumberTemplate {
    enum class SignAt : std::uint8_t { Unstated, Before, Behind };
    std::vector<NumberNode> nodes;
    int before = 0, behind = 0;  ///< digits on both sides of the point
    int shifted = 0;             ///< V: so many digits are taken from behind the point
    int zeroFrom = 0;            ///< the digit from which zeros are shown, counted from 1; 0 for none
    int zeroTo = 0;              ///< and up to which
    int digitsAtSign = 0;        ///< before S
    SignAt sign = SignAt::Unstated;
    bool hasPoint = false, isBare = false, isBracketed = false, hasMinus = false, hasPlus = false;
    bool isRoman = false, isScientific = false;
};
/// nullopt for a pattern that contradicts itself, or has more than 38 digits behind the point.
std::optional<NumberTemplate> numberTemplate(std::string_view pattern);

/// `isNegative` also of a zero, which a double can be. nullopt past 38 digits.
std::optional<std::string> write(const NumberTemplate& pattern, const WideDecimal& value, bool isNegative);
inline std::optional<std::string> write(const NumberTemplate& pattern, const WideDecimal& value) {
    return write(pattern, value, value.mantissa < 0);
}
std::optional<WideDecimal> readNumber(const NumberTemplate& pattern, std::string_view text);

}  // namespace jollyrow
