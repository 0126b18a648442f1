// SPDX-License-Identifier: MIT
#pragma once
// ComposedFace: cells that are a tree of parts (core/design/face.h).

#include <memory>

#include "grid/faces/face_layout.h"
#include "grid/faces/parts/part_face.h"
#include "grid/faces/text_face.h"

namespace jollyrow {

class ComposedFace final : public TextFace {
  public:
    void paint(const FaceCanvas& canvas, const FaceCell& cell) const override;
    std::optional<int> measure(const GlyphText& glyphs, const PlannedColumn& column,
                               const CellText& text) const override;
    /// Where the parts of a cell stand, by part of its plan.
    const std::vector<QRectF>& arranged(const QFont& font, const FaceCell& cell) const;
    std::optional<std::size_t> partAt(const QFont& font, const FaceCell& cell, QPoint position) const;

    /// The number of a stacked bar whose part is at a point of the cell arranged last; nullopt beside all.
    std::optional<std::size_t> stackedAt(const FaceCell& cell, std::size_t part, QPoint position) const;

    /// Of the cell arranged last.
    const std::vector<QRectF>& rects() const { return layout_.rects(); }

  private:
    PartFonts& fontsFor(const QFont& font) const;
    PartLook lookOf(const PlannedColumn& column, const CellText& text, std::size_t part, PartFonts& fonts,
                    const Tokens& tokens, PictureShelf* pictures = nullptr) const;
    void measureParts(PartFonts& fonts, const PlannedColumn& column, const CellText& text) const;
    // Kept between cells; nothing of a cell is.
    mutable std::unique_ptr<PartFonts> fonts_;
    mutable FaceLayout layout_;
};

/// The one of them there is.
const ComposedFace& composedFace();

}  // namespace jollyrow
