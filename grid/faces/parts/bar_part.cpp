// SPDX-License-Identifier: MIT
#include "grid/faces/parts/bar_part.h"

#include <algorithm>
#include <cmath>

namespace jollyrow {
namespace {

constexpr qreal kThickness = 10;
constexpr qreal kNumberGap = 6;  // before a number that stands beside
constexpr qreal kLeastBar = 48;  // wide, without a number
constexpr qreal kArrow = 5;

bool showsNumberBeside(const PartLook& look) {
    return look.part.design.bar.number == BarNumber::Beside && look.part.fields.size() == 1 && !look.part.isList;
}

/// An arrow head at an end, beyond which the value goes on.
void drawPastEnd(QPainter& painter, const QRectF& lengths, bool atRight, const Tokens& t) {
    const qreal x = atRight ? lengths.right() : lengths.left(), way = atRight ? -1 : 1;
    const qreal middle = lengths.center().y(), half = lengths.height() / 2;
    painter.setRenderHint(QPainter::Antialiasing, true);
    painter.setPen(Qt::NoPen);
    painter.setBrush(t.paper);
    painter.drawPolygon(QPolygonF{{x + way * (kArrow + 3), middle - half},
                                  {x + way * 3, middle},
                                  {x + way * (kArrow + 3), middle + half},
                                  {x, middle + half},
                                  {x, middle - half}});
    painter.setBrush(t.buoy);
    painter.drawPolygon(QPolygonF{{x + way * kArrow, middle - half}, {x, middle}, {x + way * kArrow, middle + half}});
    painter.setRenderHint(QPainter::Antialiasing, false);
}

}  // namespace

QColor stackedInk(std::size_t index, const Tokens& t) {
    const QColor inks[] = {t.blue, t.brass, t.teal, t.ink3, t.currentEdge};
    return inks[index % std::size(inks)];
}

qreal placeOf(double number, const Extent& ends, const QRectF& lengths) {
    if (!(ends.low < ends.high)) return lengths.left();
    const double part = (std::clamp(number, ends.low, ends.high) - ends.low) / (ends.high - ends.low);
    return lengths.left() + std::round(part * lengths.width());
}

QSizeF BarPart::size(const PartLook& look) const {
    const qreal number = showsNumberBeside(look) ? look.text().width(look.content.longest) + kNumberGap : 0;
    return {kLeastBar + number, kThickness};
}

QRectF BarPart::lengths(const PartLook& look, const QRectF& rect) {
    const qreal number = showsNumberBeside(look) ? look.text().width(look.content.longest) + kNumberGap : 0;
    const qreal height = std::min(kThickness, rect.height() - 4);
    const qreal width = std::max<qreal>(0, rect.width() - number);
    return {std::round(rect.left()), std::round(rect.center().y() - height / 2), std::floor(width), height};
}

std::vector<BarStretch> BarPart::stretches(const PartLook& look, const QRectF& area) {
    const Extent& ends = look.content.ends;
    std::vector<BarStretch> stretches;
    if (area.width() < 4 || !(ends.low < ends.high)) return stretches;
    double below = 0, above = 0;
    for (std::size_t i = 0; i < look.content.numbers.size(); ++i) {
        const double number = look.content.numbers[i];
        if (std::isnan(number)) continue;
        double& from = number < 0 ? below : above;
        const qreal a = placeOf(from, ends, area), b = placeOf(from + number, ends, area);
        from += number;
        QRectF bar(std::min(a, b), area.top(), std::abs(b - a), area.height());
        // Something that is not nothing is seen.
        if (bar.width() < 1 && number != 0) bar.setWidth(1);
        stretches.push_back({bar, i});
    }
    return stretches;
}

void BarPart::paint(QPainter& painter, const PartLook& look, const QRectF& rect) const {
    const Tokens& t = look.tokens;
    if (look.content.isMisfit) return drawText(painter, look.text(), look.content.text, rect, look.align, t.buoyText);
    const QRectF area = lengths(look, rect);
    const Extent& ends = look.content.ends;
    if (area.width() >= 4 && ends.low < ends.high) {
        const bool single = look.part.fields.size() == 1 && !look.part.isList;
        double below = 0, above = 0;
        for (const double number : look.content.numbers)
            if (!std::isnan(number)) (number < 0 ? below : above) += number;
        for (const BarStretch& stretch : stretches(look, area)) {
            const double number = look.content.numbers[stretch.index];
            painter.fillRect(stretch.rect, single ? shapeInk(look.ink(), t, number < 0 ? t.buoy : t.blue)
                                                  : stackedInk(stretch.index, t));
        }
        if (ends.low < 0 && ends.high > 0)
            painter.fillRect(QRectF(placeOf(0, ends, area), area.top() - 3, 1, area.height() + 6), t.ink3);
        if (below < ends.low) drawPastEnd(painter, area, false, t);
        if (above > ends.high) drawPastEnd(painter, area, true, t);
    }
    if (look.part.fields.size() != 1 || look.part.isList || look.part.design.bar.number == BarNumber::None) return;
    if (showsNumberBeside(look))
        return drawText(painter, look.text(), look.content.text, rect, GlyphText::Align::Right,
                        textInk(look.ink(), t, t.ink));
    // Within: where there is room for it, on the bar; else behind its end.
    GlyphText& glyphs = look.text();
    const qreal width = glyphs.width(look.content.text) + 8;
    const qreal end = placeOf(look.content.numbers.front(), ends, area), zero = placeOf(0, ends, area);
    const bool fits = std::abs(end - zero) >= width && end > zero;
    if (fits)
        drawText(painter, glyphs, look.content.text, QRectF(zero, rect.top(), end - zero - 4, rect.height()),
                 GlyphText::Align::Right, t.dark ? t.paper : QColor(Qt::white));
    else
        drawText(painter, glyphs, look.content.text,
                 QRectF(std::max(end, zero) + 4, rect.top(), std::max<qreal>(0, area.right() - std::max(end, zero) - 4),
                        rect.height()),
                 GlyphText::Align::Left, t.ink);
}

}  // namespace jollyrow
