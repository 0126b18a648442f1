// SPDX-License-Identifier: MIT
#pragma once
// FindingsPopover: what is wrong with the design, one finding a card, each with what one click would do about it.

#include "core/design/finding.h"
#include "workbench/popovers/popover.h"

namespace jollyrow {

class FindingsPopover final : public Popover {
    Q_OBJECT
  public:
    FindingsPopover(QWidget* window, const std::vector<Finding>& findings);
    /// Opens with its lower edge at `bottomY` of the window, at the left.
    void openOver(int bottomY);

  Q_SIGNALS:
    void mendWanted(const jollyrow::Finding& finding);
};

}  // namespace jollyrow
