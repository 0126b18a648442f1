// SPDX-License-Identifier: MIT
#pragma once
// Boxes to pick shapes with: of marks in faces, and of the icons that styles put before values.

#include <QIcon>

#include <functional>
#include <string>
#include <vector>

#include "core/design/style.h"
#include "workbench/controls/controls.h"

namespace jollyrow {

/// `ink`: "#rrggbb", a name of the theme or "".
QIcon shapeIcon(MarkShape shape, const std::string& ink);
/// In the order of MarkShape: "none", "disc", …
QStringList shapeNames();

/// No icon, one of a shape, or a set that goes by the value. `take` gets what was chosen.
PickBox* iconsBox(const std::vector<StyleIcon>& icons, const std::function<void(std::vector<StyleIcon>)>& take,
                  QWidget* parent);

}  // namespace jollyrow
