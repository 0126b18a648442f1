// SPDX-License-Identifier: MIT
#pragma once
// CellLook: the colours that styles come to in the theme at hand. Texts stand out from their background by at
// least 4.5:1 (WCAG 2, 1.4.3): inks are made lighter or darker where they must be.

#include <QColor>
#include <QFont>

#include "core/design/planned_style.h"
#include "grid/layout/column_layout.h"
#include "grid/paint/grid_frame.h"

namespace jollyrow {

struct CellLook {
    QColor background;  ///< invalid: the record's
    QColor ink;
    LineWeight weight = LineWeight::Theme;
    bool strike = false;
    bool isStyled = false;
    bool isPlain() const { return !isStyled; }
    QFont::Weight fontWeight() const {
        return weight == LineWeight::Bold ? QFont::Bold : weight == LineWeight::Medium ? QFont::Medium : QFont::Normal;
    }
};

/// A selected record keeps its selection's colour; texts keep theirs.
CellLook cellLook(const GridFrame& frame, CellPlace place);
/// A style's background: names of the theme are pale; a colour of the builder's is for light, in the dark it tints.
QColor styleBackground(const std::string& name, const Tokens& tokens);
/// Between the two ends of a scale.
QColor scaleBackground(const StyleDesign& style, double part, const Tokens& tokens);

}  // namespace jollyrow
