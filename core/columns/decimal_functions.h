// SPDX-License-Identifier: MIT
#pragma once
// Roots, powers and logarithms of exact decimals, as decimals: what stands in money stays exact to the cent. Results
// have the decimals that PostgreSQL's numeric gives them (at least 16 significant digits), as far as 33 digits reach:
// they are computed in IEEE 754 binary128. Powers with whole exponents that fit 38 digits are exact.

#include <optional>

#include "core/columns/wide_decimal.h"

namespace jollyrow {

// All: nullopt when the result has more than 33 digits before its point. A few microseconds each.

/// Requires: a is not negative.
std::optional<WideDecimal> squareRoot(const WideDecimal& a);
/// Of `count` values with this sum and sum of squares their variance, or the root of it; of all or of a sample. Has the
/// decimals of PostgreSQL's. Requires: count is at least 1, of a sample 2. nullopt past 38 digits.
std::optional<WideDecimal> varianceOf(std::int64_t count, const WideDecimal& sum, const WideDecimal& squares,
                                      bool isPopulation, bool isRoot);
std::optional<WideDecimal> exponential(const WideDecimal& a);
/// Requires: a is positive.
std::optional<WideDecimal> naturalLogarithm(const WideDecimal& a);
/// Requires: both are positive, and the base is not 1.
std::optional<WideDecimal> logarithm(const WideDecimal& base, const WideDecimal& a);
/// Requires: it is defined (isPowerDefined).
std::optional<WideDecimal> power(const WideDecimal& base, const WideDecimal& exponent);
/// False for 0 to a negative exponent, and for a negative base with an exponent that is not whole.
bool isPowerDefined(const WideDecimal& base, const WideDecimal& exponent);

}  // namespace jollyrow
