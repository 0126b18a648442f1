// SPDX-License-Identifier: MIT
#pragma once
// The application's look: font, palette and the drawing of the toolkit's ordinary widgets, from grid/paint/tokens.h.

#include <QFont>

#include "grid/paint/tokens.h"

class QApplication;
class QWidget;

namespace jollyrow {

/// Sets font, palette and style of the whole application.
void applyLook(QApplication& application, Theme theme);
Theme currentTheme();
const Tokens& look();
QFont bodyFont();
QFont sized(int pixelSize, QFont::Weight weight = QFont::Normal);

}  // namespace jollyrow
