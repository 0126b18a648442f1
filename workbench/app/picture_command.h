// SPDX-License-Identifier: MIT
#pragma once
// jollyrow picture: draws the grid of a design into a PNG, without a display.

#include <QStringList>

namespace jollyrow::commands {
int picture(const QStringList& arguments);
}
