// SPDX-License-Identifier: MIT
#pragma once
// How lines that are no records look: what shows behind groups, footers and totals, and how strong their text is, by
// the theme or as the design has it.

#include <QColor>

#include "core/design/design.h"
#include "core/design/planned_style.h"
#include "core/rows/grouped_lines.h"
#include "grid/paint/tokens.h"

namespace jollyrow {

struct GridFrame;
struct TotalRow;

/// What styles give a group's line or footer, or a figure on it.
CellStyle groupStyle(const GridFrame& frame, const Line& at, std::optional<std::size_t> summary);
/// What styles give a line of totals, or a figure on it.
CellStyle totalStyle(const GridFrame& frame, const TotalRow& row, std::optional<std::size_t> summary);
/// What shows behind a group's line or footer, selected, hovered or dropped on as it may be.
QColor groupBackground(const GridFrame& frame, const Line& at, std::int64_t line);
QColor totalBackground(const GridFrame& frame);
/// Regular, medium or bold; the theme's: bold for the outermost level and totals, medium within, regular for footers.
LineWeight groupWeight(const GridFrame& frame, const Line& at);
LineWeight totalWeight(const GridFrame& frame);
/// The text colour that is designed for a line; not valid: the theme's.
QColor groupInk(const GridFrame& frame, const Line& at);
QColor totalInk(const GridFrame& frame);
/// A builder's colour on which the theme's ink cannot be read well.
bool groupWantsLightText(const GridFrame& frame, const Line& at, std::int64_t line);
bool totalWantsLightText(const GridFrame& frame);

}  // namespace jollyrow
