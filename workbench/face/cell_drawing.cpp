// SPDX-License-Identifier: MIT
#include "workbench/face/cell_drawing.h"

#include <cmath>

namespace jollyrow {

CellDrawing::CellDrawing(std::shared_ptr<const Snapshot> snapshot, const PlannedColumn& column, const QFont& font,
                         PictureShelf* pictures)
    : snapshot_(std::move(snapshot)),
      column_(column),
      reader_(*snapshot_, column_),
      glyphs_(font),
      pictures_(pictures) {}

const CellText& CellDrawing::read(SourceRow row) {
    reader_.read(row, cell_);
    return cell_;
}

void CellDrawing::paint(QPainter& painter, const QRect& rect, const Tokens& look) {
    if (cell_.isPending) return;
    const TextTone tone = cell_.isEmpty ? TextTone::Quiet : cell_.isMisfit ? TextTone::Error : TextTone::Ink;
    const FaceCell cell{column_, cell_, rect, tone};
    painter.save();
    painter.setClipRect(rect, Qt::IntersectClip);
    if (cell_.isEmpty)
        glyphs_.add(column_.design.format.empty, cell.room(), cell.align(), tone);
    else
        faceOf(column_).paint({painter, glyphs_, look, pictures_}, cell);
    glyphs_.flush(painter, {look.ink, look.ink2, look.buoyText, look.onTeal});
    painter.restore();
}

std::vector<QRectF> CellDrawing::parts(const QRect& rect) const {
    if (!cell_.isComposed || cell_.isEmpty) return {};
    return composedFace().arranged(glyphs_.font(), {column_, cell_, rect});
}

std::optional<std::size_t> CellDrawing::partAt(const QRect& rect, QPoint position) const {
    return cell_.isComposed ? composedFace().partAt(glyphs_.font(), {column_, cell_, rect}, position) : std::nullopt;
}

int CellDrawing::neededWidth() const {
    const auto needed = faceOf(column_).measure(glyphs_, column_, cell_);
    const double width = needed ? *needed : static_cast<double>(glyphs_.width(cell_.text));
    return static_cast<int>(std::ceil(width)) + 2 * measure::kCellPadding;
}

}  // namespace jollyrow
