// SPDX-License-Identifier: MIT
#pragma once
// TextFace: the formatted value as text, on one line or wrapped, decimal signs of a column beneath each other.

#include "grid/faces/cell_face.h"

namespace jollyrow {

class TextFace : public CellFace {
  public:
    void paint(const FaceCanvas& canvas, const FaceCell& cell) const override;
};

/// Yes or no in words of the builder's own: text that is turned over by a click.
class YesNoFace final : public TextFace {
  public:
    FacePress press() const override { return FacePress::Toggles; }
};

}  // namespace jollyrow
