// SPDX-License-Identifier: MIT
#include "grid/faces/parts/mark_part.h"

#include <QPainterPath>
#include <QPixmap>

#include <algorithm>
#include <cmath>
#include <map>
#include <tuple>

namespace jollyrow {
namespace {

constexpr qreal kMarkSide = 11;  // pixels at the grid's usual size

QPolygonF polygon(QPointF centre, std::initializer_list<QPointF> points, qreal half) {
    QPolygonF shape;
    for (const QPointF& point : points) shape << centre + point * half;
    return shape;
}

}  // namespace

void drawMark(QPainter& painter, MarkShape shape, QPointF c, qreal side, const QColor& colour, const QColor& onColour) {
    const qreal half = side / 2, thick = side / 7;
    const QPen line(colour, thick, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin);
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing, true);
    painter.setPen(Qt::NoPen);
    painter.setBrush(colour);
    switch (shape) {
        case MarkShape::None: break;
        case MarkShape::Disc: painter.drawEllipse(c, half - 0.5, half - 0.5); break;
        case MarkShape::Half:
            painter.drawPie(QRectF(c.x() - half + 1, c.y() - half + 1, side - 2, side - 2), 90 * 16, 180 * 16);
            [[fallthrough]];
        case MarkShape::Ring:
            painter.setBrush(Qt::NoBrush);
            painter.setPen(line);
            painter.drawEllipse(c, half - thick, half - thick);
            break;
        case MarkShape::Square:
            painter.drawRoundedRect(QRectF(c.x() - half + 1, c.y() - half + 1, side - 2, side - 2), 2, 2);
            break;
        case MarkShape::Diamond:
            painter.drawPolygon(polygon(c, {{0, -1.1}, {1.1, 0}, {0, 1.1}, {-1.1, 0}}, half));
            painter.setPen(QPen(onColour, thick, Qt::SolidLine, Qt::RoundCap));
            painter.drawLine(c + QPointF(0, -half * 0.5), c + QPointF(0, half * 0.1));
            painter.drawPoint(c + QPointF(0, half * 0.5));
            break;
        case MarkShape::Triangle: painter.drawPolygon(polygon(c, {{0, -0.95}, {1, 0.85}, {-1, 0.85}}, half)); break;
        case MarkShape::Tick:
            painter.drawRoundedRect(QRectF(c.x() - half, c.y() - half, side, side), 3, 3);
            painter.setPen(QPen(onColour, thick, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
            painter.setBrush(Qt::NoBrush);
            painter.drawPolyline(polygon(c, {{-0.5, 0.05}, {-0.1, 0.45}, {0.55, -0.4}}, half));
            break;
        case MarkShape::Cross:
            painter.setPen(QPen(colour, thick * 1.3, Qt::SolidLine, Qt::RoundCap));
            painter.drawLine(c + QPointF(-half, -half) * 0.7, c + QPointF(half, half) * 0.7);
            painter.drawLine(c + QPointF(-half, half) * 0.7, c + QPointF(half, -half) * 0.7);
            break;
        case MarkShape::Dash:
            painter.setPen(QPen(colour, thick * 1.5, Qt::SolidLine, Qt::RoundCap));
            painter.drawLine(c + QPointF(-half * 0.7, 0), c + QPointF(half * 0.7, 0));
            break;
        case MarkShape::Clock:
            painter.setBrush(Qt::NoBrush);
            painter.setPen(line);
            painter.drawEllipse(c, half - thick, half - thick);
            painter.drawLine(c, c + QPointF(0, -half * 0.5));
            painter.drawLine(c, c + QPointF(half * 0.4, 0));
            break;
    }
    painter.restore();
}

void paintMark(QPainter& painter, MarkShape shape, QPointF centre, qreal side, const QColor& colour,
               const QColor& onColour) {
    using Key = std::tuple<MarkShape, int, int, QRgb, QRgb>;
    constexpr std::size_t kMostKept = 200;
    static std::map<Key, QPixmap>* kept = new std::map<Key, QPixmap>;  // never outlives the application object
    const qreal ratio = painter.device()->devicePixelRatioF() * std::max<qreal>(1, painter.transform().m11());
    const int box = static_cast<int>(std::ceil(side)) + 4;
    const Key key{shape, qRound(side * 16), qRound(ratio * 64), colour.rgba(), onColour.rgba()};
    if (kept->size() > kMostKept) kept->clear();
    QPixmap& picture = (*kept)[key];
    if (picture.isNull()) {
        picture = QPixmap(QSizeF(box * ratio, box * ratio).toSize());
        picture.setDevicePixelRatio(ratio);
        picture.fill(Qt::transparent);
        QPainter on(&picture);
        drawMark(on, shape, {box / 2.0, box / 2.0}, side, colour, onColour);
    }
    painter.drawPixmap(QPointF(std::round(centre.x() - box / 2.0), std::round(centre.y() - box / 2.0)), picture);
}

QSizeF MarkPart::size(const PartLook& look) const {
    const qreal side = kMarkSide + look.part.design.larger;
    return {side, side};
}

void MarkPart::paint(QPainter& painter, const PartLook& look, const QRectF& rect) const {
    const FaceRule* rule = look.rule();
    if (!rule) return;
    const qreal side = std::min({kMarkSide + look.part.design.larger, rect.width(), rect.height() - 2});
    QPointF centre(rect.left() + side / 2, rect.center().y());
    if (look.align == GlyphText::Align::Center) centre.setX(rect.center().x());
    if (look.align == GlyphText::Align::Right) centre.setX(rect.right() - side / 2);
    paintMark(painter, rule->shape, centre, side, shapeInk(look.ink(), look.tokens, look.tokens.teal),
              look.tokens.paper);
}

}  // namespace jollyrow
