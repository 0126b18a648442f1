// SPDX-License-Identifier: MIT
#pragma once
// CheckFace: a box with or without a tick, for yes and no without words of their own.

#include <QPixmap>

#include <map>
#include <tuple>

#include "grid/faces/text_face.h"

namespace jollyrow {

class CheckFace final : public TextFace {
  public:
    void paint(const FaceCanvas& canvas, const FaceCell& cell) const override;
    std::optional<int> measure(const GlyphText&, const PlannedColumn&, const CellText&) const override { return 16; }
    FacePress press() const override { return FacePress::Toggles; }

  private:
    const QPixmap& mark(const Tokens& look, bool checked, qreal pixelRatio) const;

    using Key = std::tuple<QRgb, QRgb, bool, int>;  ///< its colours, on or off, 64ths of the pixel ratio
    mutable std::map<Key, QPixmap> marks_;          ///< each drawn once
};

}  // namespace jollyrow
