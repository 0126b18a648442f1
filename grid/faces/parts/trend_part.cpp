// SPDX-License-Identifier: MIT
#include "grid/faces/parts/trend_part.h"

#include <QPainterPath>

#include <algorithm>
#include <cmath>
#include <optional>
#include <span>

#include "grid/faces/parts/mark_part.h"

namespace jollyrow {
namespace {

/// Draws one list of numbers into a rectangle.
class TrendDrawing {
  public:
    TrendDrawing(QPainter& painter, std::span<const double> numbers, const QRectF& room, const QColor& colour)
        : painter_(painter), numbers_(numbers), room_(room), colour_(colour) {
        for (const double number : numbers) {
            if (std::isnan(number)) continue;
            low_ = any_ ? std::min(low_, number) : number;
            high_ = any_ ? std::max(high_, number) : number;
            any_ = true;
        }
    }
    bool hasAny() const { return any_; }

    /// What is as it should be, behind the numbers; the room goes as far as it does.
    void band(double from, double to, const QColor& colour) {
        low_ = std::min(low_, from);
        high_ = std::max(high_, to);
        painter_.fillRect(QRectF(QPointF(room_.left(), y(to)), QPointF(room_.right(), y(from))), colour);
    }

    /// The least is a ring, the greatest a disc: told apart without their colours. The first of several.
    void marks(const Tokens& t) {
        std::optional<std::size_t> least, greatest;
        for (std::size_t i = 0; i < numbers_.size(); ++i) {
            if (std::isnan(numbers_[i])) continue;
            if (!least || numbers_[i] < numbers_[*least]) least = i;
            if (!greatest || numbers_[i] > numbers_[*greatest]) greatest = i;
        }
        if (!least || numbers_[*least] == numbers_[*greatest]) return;
        paintMark(painter_, MarkShape::Ring, point(*least), 6, shapeInk("buoy", t, t.buoy), t.paper);
        paintMark(painter_, MarkShape::Disc, point(*greatest), 6, shapeInk("teal", t, t.teal), t.paper);
    }

    void line(bool filled) {
        const qreal base = room_.bottom();
        for (std::size_t i = 0; i < numbers_.size();) {
            if (std::isnan(numbers_[i])) {
                ++i;
                continue;
            }
            QPolygonF run;
            for (; i < numbers_.size() && !std::isnan(numbers_[i]); ++i) run << point(i);
            if (filled && run.size() > 1) {
                QPolygonF area = run;
                area << QPointF(run.last().x(), base) << QPointF(run.first().x(), base);
                QColor tint = colour_;
                tint.setAlphaF(0.16F);
                painter_.setPen(Qt::NoPen);
                painter_.setBrush(tint);
                painter_.drawPolygon(area);
            }
            painter_.setBrush(Qt::NoBrush);
            painter_.setPen(QPen(colour_, 1));  // thin lines are drawn directly, broader ones as areas
            run.size() > 1 ? painter_.drawPolyline(run) : painter_.drawPoint(run.first());
        }
        for (std::size_t i = numbers_.size(); i-- > 0;)
            if (!std::isnan(numbers_[i])) {
                paintMark(painter_, MarkShape::Disc, point(i), 5, colour_, colour_);
                break;
            }
    }

    /// From the zero line, so that negative ones hang below it.
    void columns() {
        isColumns_ = true;
        low_ = std::min(low_, 0.0);
        high_ = std::max(high_, 0.0);
        const qreal zero = y(0), step = room_.width() / static_cast<qreal>(numbers_.size());
        for (std::size_t i = 0; i < numbers_.size(); ++i) {
            if (std::isnan(numbers_[i])) continue;
            const qreal top = y(numbers_[i]), left = room_.left() + step * static_cast<qreal>(i);
            QRectF column(left, std::min(top, zero), std::max<qreal>(1, step - 1), std::abs(zero - top));
            if (column.height() < 1 && numbers_[i] != 0) column.setHeight(1);
            painter_.fillRect(column, colour_);
        }
    }

  private:
    qreal y(double number) const {
        const double part = high_ > low_ ? (number - low_) / (high_ - low_) : 0.5;
        return room_.bottom() - part * room_.height();
    }
    QPointF point(std::size_t index) const {
        if (isColumns_) {
            const qreal step = room_.width() / static_cast<qreal>(numbers_.size());
            return {room_.left() + step * (static_cast<qreal>(index) + 0.5), y(numbers_[index])};
        }
        const double part =
            numbers_.size() > 1 ? static_cast<double>(index) / static_cast<double>(numbers_.size() - 1) : 0.5;
        return {room_.left() + part * room_.width(), y(numbers_[index])};
    }

    QPainter& painter_;
    std::span<const double> numbers_;
    QRectF room_;
    QColor colour_;
    bool any_ = false, isColumns_ = false;
    double low_ = 0, high_ = 0;
};

}  // namespace

QSizeF TrendPart::size(const PartLook&) const { return {56, 16}; }

void TrendPart::paint(QPainter& painter, const PartLook& look, const QRectF& rect) const {
    const Tokens& t = look.tokens;
    if (look.content.isMisfit) return drawText(painter, look.text(), look.content.text, rect, look.align, t.buoyText);
    const qreal height = std::min<qreal>(rect.height() - 6, 24);
    QRectF room(rect.left(), rect.center().y() - height / 2, rect.width(), height);
    const TrendDesign& trend = look.part.design.trend;
    const bool isColumns = trend.look == TrendLook::Columns;
    if (!isColumns || trend.marks) room.adjust(2, 2, -3, -2);
    if (room.width() < 4 || room.height() < 4) return;
    std::span<const double> numbers = look.content.numbers;
    if (trend.last > 0 && numbers.size() > static_cast<std::size_t>(trend.last))
        numbers = numbers.last(static_cast<std::size_t>(trend.last));
    TrendDrawing drawing(painter, numbers, room, shapeInk(look.ink(), t, t.blue));
    if (!drawing.hasAny()) return;
    if (trend.band) drawing.band(trend.from, trend.to, t.tealPale);
    if (isColumns) {
        drawing.columns();
    } else {
        painter.setRenderHint(QPainter::Antialiasing, true);
        drawing.line(trend.look == TrendLook::Area);
        painter.setRenderHint(QPainter::Antialiasing, false);
    }
    if (trend.marks) drawing.marks(t);
}

}  // namespace jollyrow
