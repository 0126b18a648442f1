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
/// In pixels at 100 % text: larger where the system's text is.
QFont sized(int pixelSize, QFont::Weight weight = QFont::Normal);
/// Pixels at 100 % text, as many more as the system's text is larger.
int scaled(int pixels);
double textScale();
/// Instead of the system's size of text, for tests and pictures; before applyLook().
void setTextScale(double scale);

}  // namespace jollyrow
