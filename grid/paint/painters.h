// SPDX-License-Identifier: MIT
#pragma once
// Painters: the two painters for the grid's present font, and the heights that follow from it.

#include <QFont>

#include <algorithm>
#include <memory>

#include "core/design/design.h"
#include "grid/paint/grid_painter.h"
#include "grid/paint/heading_painter.h"

namespace jollyrow {

class Painters final {
  public:
    void makeFor(const QFont& font) {
        cells_ = std::make_unique<GridPainter>(font);
        headings_ = std::make_unique<HeadingPainter>(font);
        headingHeights_ = HeadingPainter::heightsFor(font);
    }
    GridPainter& cells() const { return *cells_; }
    HeadingPainter& headings() const { return *headings_; }
    const HeadingHeights& headingHeights() const { return headingHeights_; }
    /// Of one line of a record whose texts do not wrap.
    int rowHeight(const GridDesign& design) const {
        constexpr int kAir = 8;  // above and below the text of a cell, together
        return std::max(design.rowHeight, static_cast<int>(cells_->text().lineHeight()) + kAir);
    }

  private:
    std::unique_ptr<GridPainter> cells_;
    std::unique_ptr<HeadingPainter> headings_;
    HeadingHeights headingHeights_;
};

}  // namespace jollyrow
