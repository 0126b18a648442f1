// SPDX-License-Identifier: MIT
#pragma once
// CellDrawing: cells of one column of a grid, drawn elsewhere by the very code that draws them in the grid.

#include <QPainter>

#include <memory>

#include "core/design/cell_text.h"
#include "grid/faces/composed_face.h"

namespace jollyrow {

/// Holds what it draws from. Used on the window's thread.
class CellDrawing final {
  public:
    CellDrawing(std::shared_ptr<const Snapshot> snapshot, const PlannedColumn& column, const QFont& font,
                PictureShelf* pictures);
    const CellText& read(SourceRow row);
    const PlannedColumn& column() const { return column_; }
    /// The cell read last.
    void paint(QPainter& painter, const QRect& cell, const Tokens& look);
    /// Where its parts stand; empty when it is shown by its type.
    std::vector<QRectF> parts(const QRect& cell) const;
    std::optional<std::size_t> partAt(const QRect& cell, QPoint position) const;
    /// Pixels that it needs, padding included.
    int neededWidth() const;

  private:
    std::shared_ptr<const Snapshot> snapshot_;
    PlannedColumn column_;
    CellReader reader_;
    CellText cell_;
    GlyphText glyphs_;
    PictureShelf* pictures_;
};

}  // namespace jollyrow
