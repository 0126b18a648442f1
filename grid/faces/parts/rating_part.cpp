// SPDX-License-Identifier: MIT
#include "grid/faces/parts/rating_part.h"

#include <cmath>

namespace jollyrow {
namespace {

constexpr qreal kPip = 9;
constexpr qreal kPipStep = 12;

bool isWithin(const PartLook& look) {
    const double number = look.content.numbers.empty() ? -1 : look.content.numbers.front();
    return number >= 0 && number <= look.part.design.most && number == std::floor(number);
}

}  // namespace

QSizeF RatingPart::size(const PartLook& look) const {
    return {kPipStep * look.part.design.most - (kPipStep - kPip), look.text().lineHeight()};
}

void RatingPart::paint(QPainter& painter, const PartLook& look, const QRectF& rect) const {
    const Tokens& t = look.tokens;
    if (look.content.isMisfit || !isWithin(look))
        return drawText(painter, look.text(), look.content.text, rect, look.align,
                        look.content.isMisfit ? t.buoyText : textInk(look.ink(), t, t.ink));
    qreal left = rect.left();
    const qreal width = size(look).width();
    if (look.align == GlyphText::Align::Center) left = rect.center().x() - width / 2;
    if (look.align == GlyphText::Align::Right) left = rect.right() - width;
    const int full = static_cast<int>(look.content.numbers.front());
    const QColor colour = shapeInk(look.ink(), t, t.brass);
    painter.setRenderHint(QPainter::Antialiasing, true);
    for (int i = 0; i < look.part.design.most; ++i) {
        const QPointF centre(left + kPipStep * i + kPip / 2, rect.center().y());
        const QPolygonF mark{centre + QPointF(0, -kPip / 2), centre + QPointF(kPip / 2, 0),
                             centre + QPointF(0, kPip / 2), centre + QPointF(-kPip / 2, 0)};
        painter.setPen(QPen(i < full ? colour : t.entryEdge, 1.2, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
        painter.setBrush(i < full ? QBrush(colour) : QBrush(Qt::NoBrush));
        painter.drawPolygon(mark);
    }
    painter.setRenderHint(QPainter::Antialiasing, false);
}

}  // namespace jollyrow
