// SPDX-License-Identifier: MIT
#pragma once
// A box to pick a colour with: those of the theme by name, or any other.

#include <functional>
#include <string>

#include "workbench/controls/controls.h"

namespace jollyrow {

/// `take` gets "#rrggbb", a name of the theme (isInk) or "". `isBackground` shows the pale ones.
PickBox* inkBox(const std::string& ink, bool isBackground, const std::function<void(std::string)>& take,
                QWidget* parent);

}  // namespace jollyrow
