// SPDX-License-Identifier: MIT
#pragma once
// Looks as colours: the four ready ones, a builder's own on top of one of them, and the one that an application has
// chosen for all its grids. Texts of a look keep a contrast of 4.5:1 to what is behind them (WCAG 2, 1.4.3), 7:1 in the
// contrast look, by being made lighter or darker.

#include <QPalette>
#include <QWidget>

#include <span>
#include <string>
#include <vector>

#include "core/design/design.h"
#include "grid/paint/tokens.h"

namespace jollyrow {

/// One of kLookColours.
struct LookColour {
    std::string_view name;
    QColor Tokens::*member;
};
std::span<const LookColour> lookColours();

/// Requires: isReadyLook(name).
Tokens readyLook(std::string_view name, Theme theme);
/// A builder's own; `adjusted` gets the names of the texts that had to be made legible, `failed` of those that could
/// not be, because what is behind them is both light and dark.
Tokens ownLook(const LookDesign& look, Theme theme, std::vector<std::string>* adjusted = nullptr,
               std::vector<std::string>* failed = nullptr);
/// That of a design's grid; the application's where it names none, or none there is.
Tokens lookOf(const Design& design, Theme theme);

/// For all grids that name no look of their own, at once. By its name, or a look read from a file (readLookFile).
/// Window's thread.
void setApplicationLook(const LookDesign& look);
LookDesign applicationLook();

/// The colours of the grid that a widget stands in; of the application's look where it stands in none.
const Tokens& tokensAt(const QWidget& widget);

}  // namespace jollyrow
