// SPDX-License-Identifier: MIT
#pragma once
// Fonts larger or heavier than a widget's own, whether that is given in points or in pixels.

#include <QFont>

#include <cmath>

namespace jollyrow {

inline QFont scaledFont(QFont font, double by, QFont::Weight weight = QFont::DemiBold) {
    if (font.pointSizeF() > 0)
        font.setPointSizeF(font.pointSizeF() * by);
    else
        font.setPixelSize(static_cast<int>(std::lround(font.pixelSize() * by)));
    font.setWeight(weight);
    return font;
}

}  // namespace jollyrow
