// SPDX-License-Identifier: MIT
#include "grid/faces/check_face.h"

namespace jollyrow {
namespace {

constexpr int kCheckPx = 15;

void drawCheck(QPainter& painter, const Tokens& t, bool checked) {
    const QRectF box(1, 1, kCheckPx - 2, kCheckPx - 2);
    painter.setRenderHint(QPainter::Antialiasing, true);
    painter.setPen(QPen(checked ? t.teal : t.entryEdge, 1.2));
    painter.setBrush(checked ? t.teal : t.paper);
    painter.drawRoundedRect(box, 3, 3);
    if (!checked) return;
    painter.setPen(QPen(t.onTeal, 1.7, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    const QPointF tick[] = {box.topLeft() + QPointF(3.2, 6.8), box.topLeft() + QPointF(5.6, 9.2),
                            box.topLeft() + QPointF(9.9, 4.2)};
    painter.drawPolyline(tick, 3);
}

}  // namespace

void CheckFace::paint(const FaceCanvas& canvas, const FaceCell& cell) const {
    if (cell.text.isMisfit) return TextFace::paint(canvas, cell);
    using measure::kCellPadding;
    const QRect& rect = cell.rect;
    const int width = rect.width() > 22 ? 22 : rect.width();
    QRect box(rect.center().x() - width / 2, rect.top(), width, rect.height() - 1);
    if (cell.align() == GlyphText::Align::Left) box.moveLeft(rect.left() + kCellPadding - 4);
    if (cell.align() == GlyphText::Align::Right) box.moveRight(rect.right() - kCellPadding + 4);
    const QPoint corner(box.center().x() - kCheckPx / 2, box.center().y() - kCheckPx / 2);
    const qreal ratio = canvas.painter.device()->devicePixelRatioF();
    canvas.painter.drawPixmap(corner, mark(canvas.tokens, cell.text.isChecked, ratio));
}

const QPixmap& CheckFace::mark(const Tokens& look, bool checked, qreal pixelRatio) const {
    constexpr std::size_t kMostKept = 100;
    const Key key{checked ? look.teal.rgba() : look.entryEdge.rgba(), checked ? look.onTeal.rgba() : look.paper.rgba(),
                  checked, qRound(pixelRatio * 64)};
    if (marks_.size() > kMostKept) marks_.clear();
    QPixmap& mark = marks_[key];
    if (!mark.isNull()) return mark;
    mark = QPixmap(QSize(kCheckPx, kCheckPx) * pixelRatio);
    mark.setDevicePixelRatio(pixelRatio);
    mark.fill(Qt::transparent);
    QPainter painter(&mark);
    drawCheck(painter, look, checked);
    return mark;
}

}  // namespace jollyrow
