// SPDX-License-Identifier: MIT
#include "grid/faces/parts/picture_part.h"

#include "grid/pictures/picture_shelf.h"

namespace jollyrow {
namespace {

constexpr qreal kAir = 7;  // above and below, together, in a cell
constexpr qreal kCorner = 2.5;

/// A frame with a piece out of it: there is something, and it cannot be seen.
void drawTorn(QPainter& painter, const QRectF& box, const Tokens& t) {
    const QRectF frame = box.adjusted(0.5, 0.5, -0.5, -0.5);
    painter.setRenderHint(QPainter::Antialiasing, true);
    painter.setPen(QPen(t.buoy, 1.2));
    painter.setBrush(Qt::NoBrush);
    const QPointF middle = frame.center();
    QPolygonF tear;
    tear << QPointF(middle.x() + 1.5, frame.top()) << QPointF(middle.x() - 1.5, middle.y() - 2)
         << QPointF(middle.x() + 1.5, middle.y() + 2) << QPointF(middle.x() - 1.5, frame.bottom());
    painter.drawRoundedRect(frame, kCorner, kCorner);
    painter.drawPolyline(tear);
    painter.setRenderHint(QPainter::Antialiasing, false);
}

QRectF placed(const QSizeF& size, const QRectF& in, GlyphText::Align align) {
    QRectF out(QPointF(), size);
    out.moveCenter(in.center());
    if (align == GlyphText::Align::Left) out.moveLeft(in.left());
    if (align == GlyphText::Align::Right) out.moveRight(in.right());
    return out;
}

}  // namespace

QSizeF PicturePart::size(const PartLook&) const { return {24, 16}; }

void PicturePart::paint(QPainter& painter, const PartLook& look, const QRectF& rect) const {
    if (!look.pictures || !look.part.field) return;
    const qreal air = std::min(kAir, rect.height() / 4);
    const QRectF place = rect.adjusted(0, std::ceil(air / 2), 0, -std::floor(air / 2));
    const qreal ratio = painter.device()->devicePixelRatioF() * painter.transform().m11();
    const QSize box(std::clamp(static_cast<int>(place.width() * ratio), 1, 2048),
                    std::clamp(static_cast<int>(place.height() * ratio), 1, 2048));
    const ShownPicture picture =
        look.pictures->shown({look.row, *look.part.field, box, look.part.design.picture.fills, kCorner * ratio});
    if (picture.state == ShownPicture::State::There) {
        const QSizeF size = QSizeF(picture.image.size()) / ratio;
        QRectF at = placed(size, place, look.align);
        at.moveTopLeft({std::round(at.left()), std::round(at.top())});
        return painter.drawImage(at, picture.image);
    }
    const QSizeF usual(std::min(place.width(), place.height() * 4 / 3), place.height());
    const QRectF at = placed(usual, place, look.align);
    if (picture.state == ShownPicture::State::Failed) return drawTorn(painter, at, look.tokens);
    painter.fillRect(at, look.tokens.panel);
}

}  // namespace jollyrow
