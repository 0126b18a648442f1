// SPDX-License-Identifier: MIT
#include "grid/heading_painter.h"

#include <QFontMetrics>
#include <QPainterPath>

#include <cmath>

namespace jollyrow {
namespace {

using measure::kCellPadding;
constexpr int kSortMarkPx = 12;
constexpr int kRankPx = 8;

QFont weighted(QFont font, QFont::Weight weight, int smaller = 0) {
    font.setWeight(weight);
    if (font.pixelSize() > 0)
        font.setPixelSize(font.pixelSize() - smaller);
    else if (smaller != 0)
        font.setPointSizeF(font.pointSizeF() * 0.85);
    return font;
}

void drawArrow(QPainter& painter, QPointF centre, Direction direction, const QColor& colour) {
    const double up = direction == Direction::Ascending ? -1 : 1;
    painter.setRenderHint(QPainter::Antialiasing, true);
    painter.setPen(QPen(colour, 1.5, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    painter.drawLine(centre + QPointF(0, -4 * up), centre + QPointF(0, 4 * up));
    const QPointF head[] = {centre + QPointF(-3, 1.2 * up), centre + QPointF(0, 4 * up), centre + QPointF(3, 1.2 * up)};
    painter.drawPolyline(head, 3);
    painter.setRenderHint(QPainter::Antialiasing, false);
}

}  // namespace

HeadingPainter::HeadingPainter(const QFont& font)
    : text_(weighted(font, QFont::Medium)), rank_(weighted(font, QFont::DemiBold, 2)) {}

int HeadingPainter::heightFor(const QFont& font) { return std::max(34, QFontMetrics(font).height() + 18); }

int HeadingPainter::neededWidth(const std::string& heading) const {
    return static_cast<int>(std::ceil(text_.width(heading))) + 2 * kCellPadding + kSortMarkPx + kRankPx + 2;
}

void HeadingPainter::paint(QPainter& painter, const GridFrame& frame, const HeadingState& state) {
    const Tokens& t = frame.tokens;
    const int width = frame.viewport.width();
    painter.fillRect(0, 0, width, frame.headerHeight, t.panel);
    painter.fillRect(0, frame.headerHeight - 1, width, 1, t.hair);
    const auto [first, end] = frame.columns.visibleRange(frame.scrollX);
    const int pinnedEnd = frame.columns.pinnedEnd();
    painter.save();
    painter.setClipRect(pinnedEnd, 0, width - pinnedEnd, frame.headerHeight);
    for (int column = first; column < end; ++column) paintHeading(painter, frame, state, column);
    painter.setClipRect(0, 0, pinnedEnd, frame.headerHeight);
    for (int column = 0; column < frame.columns.pinned(); ++column) paintHeading(painter, frame, state, column);
    painter.restore();
    if (frame.columns.pinned() > 0) painter.fillRect(pinnedEnd - 1, 0, 1, frame.headerHeight, t.strongEdge);
    paintLanding(painter, frame, state);
}

void HeadingPainter::paintHeading(QPainter& painter, const GridFrame& frame, const HeadingState& state, int column) {
    const Tokens& t = frame.tokens;
    const QRect rect(frame.columns.x(column, frame.scrollX), 0, frame.columns.width(column), frame.headerHeight - 1);
    const bool isDesigned = frame.designColumn == column;
    if (isDesigned) {
        painter.fillRect(rect, t.brassPale);
        painter.setRenderHint(QPainter::Antialiasing, true);
        painter.setPen(QPen(t.brass, 1.5));
        painter.setBrush(Qt::NoBrush);
        painter.drawRoundedRect(QRectF(rect).adjusted(0.75, 1.75, -0.75, 2), 3, 3);
        painter.setRenderHint(QPainter::Antialiasing, false);
    } else if (state.hovered == column) {
        painter.fillRect(rect, t.panel2);
    }
    if (state.hovered) painter.fillRect(rect.right(), rect.top() + 9, 1, rect.height() - 17, t.hair);

    const PlannedColumn& planned = frame.plan.columns[static_cast<std::size_t>(column)];
    const HeadingState::Sort sort = static_cast<std::size_t>(column) < state.sorts.size()
                                        ? state.sorts[static_cast<std::size_t>(column)]
                                        : HeadingState::Sort{};
    const int markPx = sort.rank == 0 ? 0 : kSortMarkPx + (state.severalKeys ? kRankPx : 0);
    const TextTone tone = state.dragged == column ? TextTone::Quiet : TextTone::Ink;
    QRectF room = QRectF(rect).adjusted(kCellPadding, 0, -kCellPadding, 0);
    const qreal textWidth =
        std::min<qreal>(text_.width(planned.design.heading), std::max<qreal>(0, room.width() - markPx));
    // The heading stands over its values: at their side, the mark on the other side of the text.
    qreal markLeft = 0;
    if (planned.alignment == Alignment::Right) {
        const QRectF place(room.right() - textWidth, room.top(), textWidth, room.height());
        text_.add(planned.design.heading, place, GlyphText::Align::Right, tone);
        markLeft = place.left() - markPx;
    } else if (planned.alignment == Alignment::Center) {
        const QRectF place(room.center().x() - (textWidth + markPx) / 2, room.top(), textWidth, room.height());
        text_.add(planned.design.heading, place, GlyphText::Align::Left, tone);
        markLeft = place.right() + 3;
    } else {
        const QRectF place(room.left(), room.top(), textWidth, room.height());
        text_.add(planned.design.heading, place, GlyphText::Align::Left, tone);
        markLeft = place.right() + 3;
    }
    text_.flush(painter, {isDesigned ? t.brassText : t.ink, t.ink2, t.buoyText, t.onTeal});
    if (sort.rank == 0) return;
    drawArrow(painter, QPointF(markLeft + kSortMarkPx / 2.0, rect.center().y() + 0.5), sort.direction, t.tealText);
    if (!state.severalKeys) return;
    rank_.add(std::to_string(sort.rank), QRectF(markLeft + kSortMarkPx - 1, rect.top(), kRankPx + 4, rect.height()),
              GlyphText::Align::Left, TextTone::Ink);
    rank_.flush(painter, {t.tealText, t.ink2, t.buoyText, t.onTeal});
}

void HeadingPainter::paintLanding(QPainter& painter, const GridFrame& frame, const HeadingState& state) {
    if (!state.dragged) return;
    const Tokens& t = frame.tokens;
    painter.setRenderHint(QPainter::Antialiasing, true);
    if (state.landing) {
        const int column = *state.landing;
        const int x = column < frame.columns.count() ? frame.columns.x(column, frame.scrollX)
                                                     : frame.columns.contentWidth() - frame.scrollX;
        painter.fillRect(x - 1, 0, 2, frame.viewport.height(), t.brass);
        QPainterPath cap(QPointF(x - 5.5, 0));
        cap.lineTo(x + 5.5, 0);
        cap.lineTo(x, 6.5);
        cap.closeSubpath();
        painter.fillPath(cap, t.brass);
    }
    const std::string& heading = frame.plan.columns[static_cast<std::size_t>(*state.dragged)].design.heading;
    const QRectF ghost(state.dragX + 8, 5, text_.width(heading) + 22, frame.headerHeight - 10);
    painter.setPen(Qt::NoPen);
    painter.setBrush(QColor(40, 32, 16, 40));
    painter.drawRoundedRect(ghost.translated(0, 3), 5, 5);
    painter.setPen(QPen(t.popEdge, 1));
    painter.setBrush(t.paper);
    painter.drawRoundedRect(ghost, 5, 5);
    painter.setRenderHint(QPainter::Antialiasing, false);
    text_.add(heading, ghost, GlyphText::Align::Center, TextTone::Ink);
    text_.flush(painter, {t.ink, t.ink2, t.buoyText, t.onTeal});
}

}  // namespace jollyrow
