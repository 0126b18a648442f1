// SPDX-License-Identifier: MIT
#pragma once
// The look in one place: every colour, for light and dark, and the measures shared by grid and workbench.
// Brass marks what is being designed, teal what acts or has the focus, buoy what is to be put right, blue data only.

#include <QColor>
#include <QPalette>

namespace jollyrow {

struct Tokens {
    bool dark = false;
    QColor page, panel, panel2, group2, paper;
    QColor ink, ink2, ink3;  ///< ink3 is for marks, never for text
    QColor hair, hair2, strongEdge, popEdge;
    QColor entryEdge;  ///< around entries, boxes and swatches: follows from strongEdge, at 3:1 on what stands behind
    QColor teal, tealText, tealPale, tealPaleEdge, hoverRow;
    QColor buoy, buoyText, buoyPale, buoyPaleEdge;
    QColor brass, brassText, brassPale, ribbonEdge;
    QColor blue, bluePale;
    QColor currentChannel, currentEdge, currentStream;
    QColor onTeal;  ///< text on a teal button
    QColor stripe;  ///< every other row
    QColor disabledIcon;
    QColor crossLight;  ///< tint of the hovered column
};

enum class Theme { Light, Dark };
/// Lives for the whole program.
const Tokens& tokens(Theme theme);
/// What follows from the other colours of a look.
void finishTokens(Tokens& tokens);
/// The theme that a palette's window colour belongs to.
Theme themeOf(const QPalette& palette);
/// The toolkit's palette in these colours.
QPalette paletteFor(Theme theme);

/// Pixels at 100 % scale.
namespace measure {
inline constexpr int kGutter = 22;
inline constexpr int kCellPadding = 8;
inline constexpr int kIconRoom = 17;   ///< of a style's icon before the value
inline constexpr int kBorderGrip = 4;  ///< how near a heading's border the pointer resizes
}  // namespace measure

}  // namespace jollyrow
