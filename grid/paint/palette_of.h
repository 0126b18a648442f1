// SPDX-License-Identifier: MIT
#pragma once
// What the toolkit's own entries, labels and buttons in a grid are drawn with: the colours of its look, whatever those
// of the application are. A dark grid stands in light forms, too.

#include <QPalette>

#include "grid/paint/tokens.h"

namespace jollyrow {

inline QPalette paletteOf(const Tokens& look, QPalette palette) {
    palette.setColor(QPalette::Window, look.paper);
    palette.setColor(QPalette::WindowText, look.ink);
    palette.setColor(QPalette::Base, look.paper);
    palette.setColor(QPalette::AlternateBase, look.stripe);
    palette.setColor(QPalette::Text, look.ink);
    palette.setColor(QPalette::Button, look.panel);
    palette.setColor(QPalette::ButtonText, look.ink);
    palette.setColor(QPalette::PlaceholderText, look.ink2);
    palette.setColor(QPalette::Highlight, look.teal);
    palette.setColor(QPalette::HighlightedText, look.onTeal);
    return palette;
}

}  // namespace jollyrow
