// SPDX-License-Identifier: MIT
#pragma once
// Controls for how lines look that are no records: a colour, typed or taken from a few that suit the themes, and how
// strong the text is.

#include <functional>
#include <string>

#include "core/design/design.h"

class QLineEdit;
class QComboBox;
class QWidget;

namespace jollyrow {

/// Calls `take` with "#rrggbb", or "" for the theme's, whenever the entry is one of both.
QLineEdit* colourEntry(const QString& accessibleName, const std::string& colour, QWidget* parent,
                       std::function<void(std::string)> take);
QComboBox* weightPick(const QString& accessibleName, LineWeight weight, QWidget* parent,
                      std::function<void(LineWeight)> take);

}  // namespace jollyrow
