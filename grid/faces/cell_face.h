// SPDX-License-Identifier: MIT
#pragma once
// CellFace: how a kind of cell is measured, painted and pressed. One file a kind, each with a line in cell_faces.cpp
// (docs/adding.md). A face keeps nothing of a cell; the painter has drawn what all cells have in common before: marks
// of refused, found and current cells, cells on their way and empty ones.

#include <QPainter>

#include <optional>

#include "core/design/cell_text.h"
#include "core/design/plan.h"
#include "grid/paint/glyph_text.h"
#include "grid/paint/tokens.h"

namespace jollyrow {

class PictureShelf;

/// One filled cell to be painted. Borrows; valid for the call.
struct FaceCell {
    const PlannedColumn& column;
    const CellText& text;
    QRect rect;                     ///< the whole cell
    TextTone tone = TextTone::Ink;  ///< of what is written
    int decimalInset = 0;           ///< room right of the decimal sign, in columns that align it
    /// Inside the padding.
    QRectF room() const { return QRectF(rect).adjusted(measure::kCellPadding, 0, -measure::kCellPadding, -1); }
    GlyphText::Align align() const {
        return column.alignment == Alignment::Right    ? GlyphText::Align::Right
               : column.alignment == Alignment::Center ? GlyphText::Align::Center
                                                       : GlyphText::Align::Left;
    }
};

/// Where a face paints. `glyphs` collects the texts of a row of cells and draws them after the row.
struct FaceCanvas {
    QPainter& painter;
    GlyphText& glyphs;
    const Tokens& tokens;
    PictureShelf* pictures = nullptr;  ///< null: pictures are left out
};

enum class FacePress {
    OpensEditor,  ///< a double click, Enter or typing opens an editor
    Toggles,      ///< a click or the space bar turns the value over; there is no editor
};

/// Used on the window's thread only.
class CellFace {
  public:
    virtual ~CellFace() = default;
    virtual void paint(const FaceCanvas& canvas, const FaceCell& cell) const = 0;
    /// Pixels that a cell needs; nullopt: those of its text.
    virtual std::optional<int> measure(const GlyphText& /*glyphs*/, const PlannedColumn& /*column*/,
                                       const CellText& /*text*/) const {
        return std::nullopt;
    }
    virtual FacePress press() const { return FacePress::OpensEditor; }
    /// Is a click at this point of the viewport on what toggles?
    virtual bool isPressedAt(QPoint position, const QRect& cell, Alignment alignment) const;
};

/// The face of a column's cells: the first kind that shows them. Lives as long as the program.
const CellFace& faceOf(const PlannedColumn& column);

}  // namespace jollyrow
