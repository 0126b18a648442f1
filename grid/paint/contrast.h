// SPDX-License-Identifier: MIT
#pragma once
// Contrast by WCAG 2: what keeps a builder's colours legible.

#include <QColor>

namespace jollyrow {

/// Relative luminance, 0 to 1.
double luminance(const QColor& colour);
/// 1 to 21.
double contrast(const QColor& a, const QColor& b);
/// The colour itself, or the nearest lighter or darker one that stands out from the background by `least`.
QColor legible(const QColor& colour, const QColor& background, double least = 4.5);

/// Between two colours: `part` 0 is the first, 1 the second.
QColor mixed(const QColor& a, const QColor& b, double part);

}  // namespace jollyrow
