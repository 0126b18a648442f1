// SPDX-License-Identifier: MIT
#include "grid/paint/heading_painter.h"

#include <QFontMetrics>
#include <QPainterPath>

#include <cmath>

namespace jollyrow {
namespace {

using measure::kCellPadding;
constexpr int kSortMarkPx = 12;
constexpr int kRankPx = 8;
constexpr int kGroupMarkPx = 15;
constexpr int kBracketInset = 4;

void drawArrow(QPainter& painter, QPointF centre, Direction direction, const QColor& colour) {
    const double up = direction == Direction::Ascending ? -1 : 1;
    painter.setRenderHint(QPainter::Antialiasing, true);
    painter.setPen(QPen(colour, 1.5, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    painter.drawLine(centre + QPointF(0, -4 * up), centre + QPointF(0, 4 * up));
    const QPointF head[] = {centre + QPointF(-3, 1.2 * up), centre + QPointF(0, 4 * up), centre + QPointF(3, 1.2 * up)};
    painter.drawPolyline(head, 3);
    painter.setRenderHint(QPainter::Antialiasing, false);
}

void drawFrame(QPainter& painter, const QRectF& rect, const QPen& pen, const QBrush& fill) {
    painter.setRenderHint(QPainter::Antialiasing, true);
    painter.setPen(pen);
    painter.setBrush(fill);
    painter.drawRoundedRect(rect, 3, 3);
    painter.setBrush(Qt::NoBrush);
    painter.setRenderHint(QPainter::Antialiasing, false);
}

/// A line along the bottom of `rect` with short ends turned down.
void drawBracket(QPainter& painter, const QRect& rect, const QColor& colour) {
    const double y = rect.bottom() - 3.5;
    QPainterPath path(QPointF(rect.left() + kBracketInset + 0.5, y + 3.5));
    path.lineTo(rect.left() + kBracketInset + 0.5, y + 1);
    path.quadTo(rect.left() + kBracketInset + 0.5, y, rect.left() + kBracketInset + 1.5, y);
    path.lineTo(rect.right() - kBracketInset - 0.5, y);
    path.quadTo(rect.right() - kBracketInset + 0.5, y, rect.right() - kBracketInset + 0.5, y + 1);
    path.lineTo(rect.right() - kBracketInset + 0.5, y + 3.5);
    painter.setRenderHint(QPainter::Antialiasing, true);
    painter.setPen(QPen(colour, 1.2));
    painter.drawPath(path);
    painter.setRenderHint(QPainter::Antialiasing, false);
}

/// Three lines, the lower ones set in.
void drawGroupMark(QPainter& painter, QPointF at, const QColor& colour) {
    for (int i = 0; i < 3; ++i)
        painter.fillRect(
            QRectF(std::round(at.x()) + (i > 0 ? 3 : 0), std::round(at.y()) - 4 + i * 4, i > 0 ? 7 : 10, 1.5), colour);
}

/// A small funnel in the corner.
void drawFunnel(QPainter& painter, QPointF at, const QColor& colour) {
    painter.setRenderHint(QPainter::Antialiasing, true);
    painter.setPen(Qt::NoPen);
    painter.setBrush(colour);
    painter.drawPolygon(QPolygonF({at, at + QPointF(7.5, 0), at + QPointF(4.8, 3.4), at + QPointF(4.8, 7),
                                   at + QPointF(2.7, 5.8), at + QPointF(2.7, 3.4)}));
    painter.setRenderHint(QPainter::Antialiasing, false);
    painter.setBrush(Qt::NoBrush);  // lines that are drawn behind it are not filled
}

}  // namespace

HeadingPainter::HeadingPainter(const QFont& font)
    : text_(weighted(font, QFont::Medium)),
      rank_(weighted(font, QFont::DemiBold, 2)),
      tier_(weighted(font, QFont::DemiBold)),
      small_(weighted(font, QFont::Normal, 1)) {}

HeadingHeights HeadingPainter::heightsFor(const QFont& font) {
    const int line = QFontMetrics(font).height();
    return {std::max(22, line + 7), std::max(20, line + 5), std::max(24, line + 9), std::max(34, line + 18)};
}

int HeadingPainter::neededWidth(const std::string& heading) const {
    return static_cast<int>(std::ceil(text_.width(heading))) + 2 * kCellPadding + kSortMarkPx + 2;
}

void HeadingPainter::paint(QPainter& painter, const GridFrame& frame, const HeadingLayout& layout,
                           const HeadingState& state) {
    const Tokens& t = frame.tokens;
    const int width = frame.body.viewport().width();
    painter.fillRect(0, 0, width, frame.body.headerHeight(), t.panel);
    painter.fillRect(0, frame.body.headerHeight() - 1, width, 1, t.hair);
    painter.save();
    for (const Zone zone : {Zone::Scrolled, Zone::Right, Zone::Left}) {
        const auto [from, to] = frame.body.columns().extent(zone);
        painter.setClipRect(from, 0, to - from, frame.body.headerHeight());
        const ColumnRange range = frame.body.columns().visible(zone, frame.body.scrollX());
        for (int column = range.begin; column < range.end; ++column) paintColumn(painter, frame, layout, state, column);
    }
    painter.setClipRect(0, 0, width, frame.body.headerHeight());
    if (frame.body.columns().pinned().left > 0)
        painter.fillRect(frame.body.columns().pinnedEnd() - 1, layout.levelTop(frame.plan.tierLevels), 1,
                         frame.body.headerHeight(), t.strongEdge);
    if (frame.body.columns().pinned().right > 0)
        painter.fillRect(frame.body.columns().rightStart(), layout.levelTop(frame.plan.tierLevels), 1,
                         frame.body.headerHeight(), t.strongEdge);
    for (int tier = 0; tier < static_cast<int>(frame.plan.tiers.size()); ++tier)
        paintTier(painter, frame, layout, state, tier);
    painter.restore();
    paintLanding(painter, frame, state);
}

void HeadingPainter::paintTier(QPainter& painter, const GridFrame& frame, const HeadingLayout& layout,
                               const HeadingState& state, int index) {
    const PlannedTier& tier = frame.plan.tiers[static_cast<std::size_t>(index)];
    const QRect rect = layout.tierRect(index);
    if (rect.isEmpty() || rect.left() >= frame.body.viewport().width() || rect.right() < 0) return;
    const Tokens& t = frame.tokens;
    painter.setClipRect(rect.adjusted(0, 0, 1, 1));
    if (tier.level == 0 && tier.first > 0) painter.fillRect(rect.left(), 0, 1, frame.body.headerHeight(), t.hair);
    const bool isHovered = state.hoveredTier == index;
    const QRect face = rect.adjusted(1, 1, -1, -1);
    if (state.designTier == index)
        drawFrame(painter, QRectF(face).adjusted(0.75, 0.75, -0.75, -0.75), QPen(t.brass, 1.5), t.brassPale);
    else if (isHovered || tier.design.look == TierLook::Band)
        painter.fillRect(face, t.panel2);
    if (state.focusedTier == index)
        drawFrame(painter, QRectF(face).adjusted(1, 1, -1, -1), QPen(t.teal, 2), Qt::NoBrush);
    const QColor ink = state.designTier == index    ? t.brassText
                       : tier.design.colour.empty() ? t.ink
                                                    : QColor(QString::fromStdString(tier.design.colour));
    if (tier.design.look == TierLook::Bracket) drawBracket(painter, rect, tier.level == 0 ? t.ink3 : t.strongEdge);
    const QRect fold = isHovered || tier.design.folded ? layout.foldRect(index) : QRect();
    QRectF room = QRectF(rect).adjusted(kBracketInset + 2, 0, -kBracketInset - 2, -3);
    if (!fold.isEmpty()) room.setRight(fold.left() - 2);
    const bool dragged = state.draggedTier == index;
    std::string count = tier.foldedAway > 0 ? " +" + std::to_string(tier.foldedAway) : std::string();
    const auto align = tier.design.alignment == Alignment::Right    ? GlyphText::Align::Right
                       : tier.design.alignment == Alignment::Center ? GlyphText::Align::Center
                                                                    : GlyphText::Align::Left;
    // What is folded away is counted even where the words have no room.
    const qreal countPx = tier_.width(count);
    const qreal wordsPx = std::min(tier_.width(tier.design.heading), std::max<qreal>(0, room.width() - countPx));
    const qreal left = align == GlyphText::Align::Left    ? room.left()
                       : align == GlyphText::Align::Right ? room.right() - wordsPx - countPx
                                                          : room.center().x() - (wordsPx + countPx) / 2;
    tier_.add(tier.design.heading, QRectF(left, room.top(), wordsPx, room.height()), GlyphText::Align::Left,
              dragged ? TextTone::Quiet : TextTone::Ink);
    if (!count.empty())
        tier_.add(count, QRectF(left + wordsPx, room.top(), countPx + 1, room.height()), GlyphText::Align::Left,
                  TextTone::Quiet);
    tier_.flush(painter, {ink, t.ink2, t.buoyText, t.onTeal});
    if (!fold.isEmpty()) paintFold(painter, frame, layout, tier, index, isHovered);
}

/// Two chevrons: towards each other to fold, apart to unfold.
void HeadingPainter::paintFold(QPainter& painter, const GridFrame& frame, const HeadingLayout& layout,
                               const PlannedTier& tier, int index, bool hovered) {
    const QRect fold = layout.foldRect(index);
    const Tokens& t = frame.tokens;
    const QPointF c = QRectF(fold).center();
    painter.setRenderHint(QPainter::Antialiasing, true);
    painter.setPen(QPen(hovered ? t.tealText : t.ink2, 1.4, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    for (const double side : {-1.0, 1.0}) {
        const double tip = tier.design.folded ? 6 : 1.5, back = tier.design.folded ? 3 : 4.5;
        const QPointF line[] = {c + QPointF(side * back, -3), c + QPointF(side * tip, 0), c + QPointF(side * back, 3)};
        painter.drawPolyline(line, 3);
    }
    painter.setRenderHint(QPainter::Antialiasing, false);
}

/// What stands behind a heading: the column one designs, the one under the pointer, edges and focus.
void HeadingPainter::paintPlace(QPainter& painter, const GridFrame& frame, const HeadingLayout& layout,
                                const HeadingState& state, int column) {
    const Tokens& t = frame.tokens;
    const QRect rect = layout.columnRect(column).adjusted(0, 0, 0, -1);
    const PlannedColumn& planned = frame.plan.columns[static_cast<std::size_t>(column)];
    const bool isDesigned = frame.isDesigned(column);
    if (isDesigned)
        drawFrame(painter, QRectF(rect).adjusted(0.75, 1.75, -0.75, 2), QPen(t.brass, 1.5), t.brassPale);
    else if (state.hoveredColumn == column)
        painter.fillRect(rect, t.panel2);
    if (state.hoveredColumn && planned.line == 0)
        painter.fillRect(rect.right(), layout.columnText(column).top() + 5, 1, layout.leafHeight() - 10, t.hair);
    if (planned.line > 0)
        painter.fillRect(rect.left() + kCellPadding, rect.top(), rect.width() - 2 * kCellPadding, 1, t.hair2);
    if (state.focusedColumn == column)
        drawFrame(painter, QRectF(rect).adjusted(1.5, 1.5, -1.5, -1.5), QPen(t.teal, 2), Qt::NoBrush);
}

void HeadingPainter::paintColumn(QPainter& painter, const GridFrame& frame, const HeadingLayout& layout,
                                 const HeadingState& state, int column) {
    const Tokens& t = frame.tokens;
    const QRect rect = layout.columnRect(column).adjusted(0, 0, 0, -1);
    const PlannedColumn& planned = frame.plan.columns[static_cast<std::size_t>(column)];
    paintPlace(painter, frame, layout, state, column);
    const HeadingState::Sort sort = static_cast<std::size_t>(column) < state.sorts.size()
                                        ? state.sorts[static_cast<std::size_t>(column)]
                                        : HeadingState::Sort{};
    const bool isGrouped =
        static_cast<std::size_t>(column) < state.grouped.size() && state.grouped[static_cast<std::size_t>(column)];
    const int markPx =
        (sort.rank == 0 ? 0 : kSortMarkPx + (state.severalKeys ? kRankPx : 0)) + (isGrouped ? kGroupMarkPx : 0);
    const TextTone tone = state.draggedColumn == column ? TextTone::Quiet : TextTone::Ink;
    const QRectF room = QRectF(layout.columnText(column)).adjusted(kCellPadding, 0, -kCellPadding, -1);
    const qreal textWidth = std::min<qreal>(text_.width(planned.design.heading),
                                            std::max<qreal>(0, room.width() + kCellPadding - 2 - markPx));
    // The heading stands over its values: at their side, the mark on the other side of the text.
    qreal markLeft = 0;
    if (planned.alignment == Alignment::Right) {
        const QRectF place(room.right() - textWidth, room.top(), textWidth, room.height());
        text_.add(planned.design.heading, place, GlyphText::Align::Right, tone);
        markLeft = place.left() - markPx;
    } else {
        const bool centred = planned.alignment == Alignment::Center;
        const qreal left = centred ? room.center().x() - (textWidth + markPx) / 2 : room.left();
        const QRectF place(left, room.top(), textWidth, room.height());
        text_.add(planned.design.heading, place, GlyphText::Align::Left, tone);
        markLeft = place.right() + 3;
    }
    text_.flush(painter, {frame.isDesigned(column) ? t.brassText : t.ink, t.ink2, t.buoyText, t.onTeal});
    if (isGrouped) {
        // Beside the text, before a sort mark.
        drawGroupMark(
            painter,
            {markLeft + (planned.alignment == Alignment::Right ? markPx - kGroupMarkPx - 1 : 3), room.center().y()},
            t.tealText);
        if (planned.alignment != Alignment::Right) markLeft += kGroupMarkPx;
    }
    if (static_cast<std::size_t>(column) < state.filtered.size() && state.filtered[static_cast<std::size_t>(column)])
        drawFunnel(painter, QPointF(rect.right() - 8.5, room.top() + 3), t.tealText);  // beside the text's room
    if (sort.rank == 0) return;
    drawArrow(painter, QPointF(markLeft + kSortMarkPx / 2.0, room.center().y() + 0.5), sort.direction, t.tealText);
    if (!state.severalKeys) return;
    rank_.add(std::to_string(sort.rank), QRectF(markLeft + kSortMarkPx - 1, room.top(), kRankPx + 4, room.height()),
              GlyphText::Align::Left, TextTone::Ink);
    rank_.flush(painter, {t.tealText, t.ink2, t.buoyText, t.onTeal});
}

void HeadingPainter::paintLanding(QPainter& painter, const GridFrame& frame, const HeadingState& state) {
    if (!state.draggedColumn && !state.draggedTier) return;
    const Tokens& t = frame.tokens;
    painter.setRenderHint(QPainter::Antialiasing, true);
    const QRect& at = state.landing.rect;
    switch (state.landing.kind) {
        case LandingMark::Kind::None: break;
        case LandingMark::Kind::Between: {
            const int x = at.left();
            painter.fillRect(x - 1, at.top(), 2, frame.body.viewport().height(), t.brass);
            QPainterPath cap(QPointF(x - 5.5, at.top()));
            cap.lineTo(x + 5.5, at.top());
            cap.lineTo(x, at.top() + 6.5);
            cap.closeSubpath();
            painter.fillPath(cap, t.brass);
            break;
        }
        case LandingMark::Kind::Around: {
            drawFrame(painter, QRectF(at).adjusted(1, 1, -1, -1), QPen(t.brass, 2), Qt::NoBrush);
            painter.setRenderHint(QPainter::Antialiasing, true);
            break;
        }
        case LandingMark::Kind::Beneath: {
            QColor fill = t.brass;
            fill.setAlphaF(0.18F);
            QPen dashed(t.brass, 1.5, Qt::DashLine);
            drawFrame(painter, QRectF(at.left() + 2, at.center().y() + 1, at.width() - 4, at.height() / 2.0 - 3),
                      dashed, fill);
            painter.setRenderHint(QPainter::Antialiasing, true);
            break;
        }
    }
    const std::string& heading = state.draggedColumn
                                     ? frame.plan.columns[static_cast<std::size_t>(*state.draggedColumn)].design.heading
                                     : frame.plan.tiers[static_cast<std::size_t>(*state.draggedTier)].design.heading;
    const std::string words = state.landing.words.toStdString();
    const qreal width = std::max(text_.width(heading), small_.width(words)) + 22;
    const qreal height = words.empty() ? 24 : 40;
    const qreal left = std::min<qreal>(state.dragAt.x() + 10, frame.body.viewport().width() - width - 4);
    const QRectF ghost(left, state.dragAt.y() + 14, width, height);
    painter.setPen(Qt::NoPen);
    painter.setBrush(QColor(40, 32, 16, 40));
    painter.drawRoundedRect(ghost.translated(0, 3), 5, 5);
    painter.setPen(QPen(t.popEdge, 1));
    painter.setBrush(t.paper);
    painter.drawRoundedRect(ghost, 5, 5);
    painter.setBrush(Qt::NoBrush);
    painter.setRenderHint(QPainter::Antialiasing, false);
    text_.add(heading, QRectF(ghost.left() + 10, ghost.top() + 3, width - 20, 19), GlyphText::Align::Left,
              TextTone::Ink);
    text_.flush(painter, {t.ink, t.ink2, t.buoyText, t.onTeal});
    if (words.empty()) return;
    small_.add(words, QRectF(ghost.left() + 10, ghost.top() + 20, width - 20, 16), GlyphText::Align::Left,
               TextTone::Ink);
    small_.flush(painter, {t.brassText, t.ink2, t.buoyText, t.onTeal});
}

}  // namespace jollyrow
