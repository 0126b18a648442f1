// SPDX-License-Identifier: MIT
// Idea: backgrounds for all rows first, then the text of each row as one glyph run a colour, once for the scrolled
// columns (clipped beside the pinned ones) and once for the pinned ones. Hairlines are filled rectangles, which the
// raster engine draws ten times faster than lines. Bench: bench/paint_bench.cpp.
#include "grid/grid_painter.h"

#include <QPainterPath>

namespace jollyrow {
namespace {

using measure::kCellPadding;
using measure::kGutter;

constexpr int kCheckPx = 15;

void drawCheck(QPainter& painter, const Tokens& t, bool checked) {
    const QRectF box(1, 1, kCheckPx - 2, kCheckPx - 2);
    painter.setRenderHint(QPainter::Antialiasing, true);
    painter.setPen(QPen(checked ? t.teal : t.strongEdge, 1.2));
    painter.setBrush(checked ? t.teal : t.paper);
    painter.drawRoundedRect(box, 3, 3);
    if (!checked) return;
    painter.setPen(QPen(t.onTeal, 1.7, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    const QPointF tick[] = {box.topLeft() + QPointF(3.2, 6.8), box.topLeft() + QPointF(5.6, 9.2),
                            box.topLeft() + QPointF(9.9, 4.2)};
    painter.drawPolyline(tick, 3);
}

/// A cell that is still on its way: a soft bar of a length that differs from cell to cell and stays the same in time.
void drawPending(QPainter& painter, const QRect& rect, const Tokens& t, CellPlace place) {
    const auto seed = static_cast<unsigned>(place.line * 31 + place.column * 17);
    const int length = std::min(rect.width() - 2 * kCellPadding, 20 + static_cast<int>(seed * 2654435761U % 60U));
    painter.setRenderHint(QPainter::Antialiasing, true);
    painter.setPen(Qt::NoPen);
    painter.setBrush(t.hair2);
    painter.drawRoundedRect(QRectF(rect.left() + kCellPadding, rect.center().y() - 3, length, 7), 3.5, 3.5);
    painter.setRenderHint(QPainter::Antialiasing, false);
}

}  // namespace

QRect GridFrame::cellRect(CellPlace place) const {
    const std::int64_t y = scroll.top(place.line) - scrollY + headerHeight;
    const int clampedY = static_cast<int>(std::clamp<std::int64_t>(y, -1'000'000, 1'000'000));
    return {columns.x(place.column, scrollX), clampedY, columns.width(place.column), rowHeight};
}

GridPainter::GridPainter(const QFont& font) : text_(font) {}

void GridPainter::paint(QPainter& painter, const GridFrame& frame, const QRect& dirty) {
    const QRect body =
        QRect(0, frame.headerHeight, frame.viewport.width(), frame.viewport.height() - frame.headerHeight) & dirty;
    if (body.isEmpty()) return;
    painter.save();
    painter.setClipRect(body);
    painter.fillRect(body, frame.tokens.paper);
    const std::int64_t lineCount = frame.lines ? frame.lines->lineCount() : 0;
    if (lineCount == 0) {
        paintMessage(painter, frame);
        painter.restore();
        return;
    }
    const std::int64_t first =
        std::max<std::int64_t>(0, frame.scroll.lineAt(frame.scrollY + body.top() - frame.headerHeight));
    const std::int64_t end =
        std::min(lineCount, frame.scroll.lineAt(frame.scrollY + body.bottom() - frame.headerHeight) + 1);
    paintBackgrounds(painter, frame, first, end);
    const auto [firstColumn, endColumn] = frame.columns.visibleRange(frame.scrollX);
    const int pinnedEnd = frame.columns.pinnedEnd();
    const Columns scrolled{firstColumn, endColumn,
                           body & QRect(pinnedEnd, 0, frame.viewport.width() - pinnedEnd, frame.viewport.height())};
    const Columns pinned{0, frame.columns.pinned(), body & QRect(0, 0, pinnedEnd, frame.viewport.height())};
    for (const Columns& part : {scrolled, pinned}) {
        if (part.clip.isEmpty()) continue;
        painter.setClipRect(part.clip);
        paintColumnTints(painter, frame, part);
        paintCells(painter, frame, first, end, part);
    }
    painter.setClipRect(body);
    for (std::int64_t line = first; line < end; ++line)
        paintGutter(painter, frame, line,
                    static_cast<int>(frame.scroll.top(line) - frame.scrollY) + frame.headerHeight);
    paintPinnedEdge(painter, frame);
    painter.restore();
}

void GridPainter::paintBackgrounds(QPainter& painter, const GridFrame& frame, std::int64_t first, std::int64_t end) {
    const Tokens& t = frame.tokens;
    const int width = frame.viewport.width();
    const int used = std::min(width, frame.columns.contentWidth() - frame.scrollX);
    for (std::int64_t line = first; line < end; ++line) {
        const int y = static_cast<int>(frame.scroll.top(line) - frame.scrollY) + frame.headerHeight;
        const bool selected = frame.selection.isRowSelected(frame.lines->rowAt(static_cast<ViewLine>(line)));
        const bool hovered = frame.hover && frame.hover->line == line;
        if (selected)
            painter.fillRect(0, y, used, frame.rowHeight, t.tealPale);
        else if (hovered)
            painter.fillRect(0, y, used, frame.rowHeight, t.hoverRow);
        else if (frame.stripes && line % 2 == 1)
            painter.fillRect(0, y, used, frame.rowHeight, t.stripe);
        if (selected) painter.fillRect(0, y, 3, frame.rowHeight, t.teal);
        if (frame.hairlines) painter.fillRect(0, y + frame.rowHeight - 1, used, 1, selected ? t.tealPaleEdge : t.hair2);
    }
}

void GridPainter::paintColumnTints(QPainter& painter, const GridFrame& frame, const Columns& columns) {
    const int height = frame.viewport.height();
    const auto inside = [&](int column) { return column >= columns.first && column < columns.end; };
    if (frame.hover && inside(frame.hover->column))
        painter.fillRect(frame.columns.x(frame.hover->column, frame.scrollX), 0,
                         frame.columns.width(frame.hover->column), height, frame.tokens.crossLight);
    if (frame.designColumn && inside(*frame.designColumn)) {
        const int x = frame.columns.x(*frame.designColumn, frame.scrollX), w = frame.columns.width(*frame.designColumn);
        QColor tint = frame.tokens.brass, edge = frame.tokens.brass;
        tint.setAlphaF(0.055F);
        edge.setAlphaF(0.55F);
        painter.fillRect(x, 0, w, height, tint);
        painter.fillRect(x, 0, 1, height, edge);
        painter.fillRect(x + w - 1, 0, 1, height, edge);
    }
}

void GridPainter::paintCells(QPainter& painter, const GridFrame& frame, std::int64_t first, std::int64_t end,
                             const Columns& columns) {
    const Tokens& t = frame.tokens;
    const std::array<QColor, kTextTones> colours = {t.ink, t.ink2, t.buoyText, t.onTeal};
    const int top = static_cast<int>(frame.scroll.top(first) - frame.scrollY) + frame.headerHeight;
    for (std::int64_t line = first; line < end; ++line) {
        const int y = top + static_cast<int>(line - first) * frame.rowHeight;
        for (int column = columns.first; column < columns.end; ++column)
            paintCell(painter, frame, {line, column},
                      {frame.columns.x(column, frame.scrollX), y, frame.columns.width(column), frame.rowHeight});
        text_.flush(painter, colours);
    }
}

void GridPainter::paintCell(QPainter& painter, const GridFrame& frame, CellPlace place, const QRect& rect) {
    const Tokens& t = frame.tokens;
    const PlannedColumn& column = frame.plan.columns[static_cast<std::size_t>(place.column)];
    frame.lines->cell(static_cast<ViewLine>(place.line), place.column, cell_);
    const bool refused = cell_.mark == CellMark::Refused;
    if (refused) {
        painter.fillRect(rect.adjusted(0, 0, 0, -1), t.buoyPale);
        painter.setPen(QPen(t.buoy, 1));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(rect.adjusted(0, 0, -1, -2));
    } else if (frame.selection.mode() == SelectionMode::Cells && frame.selection.isCellSelected(place)) {
        painter.fillRect(rect.adjusted(0, 0, 0, -1), t.tealPale);
    }
    if (frame.selection.current() == place && frame.hasFocus) {
        painter.setPen(QPen(t.teal, 1));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(rect.adjusted(0, 0, -1, -2));
        painter.drawRect(rect.adjusted(1, 1, -2, -3));
    }
    if (cell_.isPending) return drawPending(painter, rect, t, place);
    const QRectF room = QRectF(rect).adjusted(kCellPadding, 0, -kCellPadding, -1);
    const GlyphText::Align align = column.alignment == Alignment::Right    ? GlyphText::Align::Right
                                   : column.alignment == Alignment::Center ? GlyphText::Align::Center
                                                                           : GlyphText::Align::Left;
    if (cell_.isEmpty) return text_.add("–", room, align, TextTone::Quiet);
    if (column.format.type == Type::Boolean && !cell_.isMisfit) {
        const int width = rect.width() > 22 ? 22 : rect.width();
        QRect box(rect.center().x() - width / 2, rect.top(), width, rect.height() - 1);
        if (align == GlyphText::Align::Left) box.moveLeft(rect.left() + kCellPadding - 4);
        if (align == GlyphText::Align::Right) box.moveRight(rect.right() - kCellPadding + 4);
        const QPoint corner(box.center().x() - kCheckPx / 2, box.center().y() - kCheckPx / 2);
        return painter.drawPixmap(corner, checkMark(t, cell_.isChecked, painter.device()->devicePixelRatioF()));
    }
    const TextTone tone = refused || cell_.isMisfit ? TextTone::Error : TextTone::Ink;
    if (cell_.isMisfit) {  // a corner, so that it is not told by colour alone
        for (int i = 0; i < 6; ++i) painter.fillRect(rect.right() - 5 + i, rect.top() + 1 + i, 6 - i, 1, t.buoy);
    }
    if (column.format.type == Type::Real && align == GlyphText::Align::Right && !cell_.isMisfit) {
        // All decimal signs of the column on one line: what stands right of it gets the widest one's room.
        const std::size_t point = cell_.text.find('.');
        const std::string_view fraction =
            point == std::string::npos ? std::string_view{} : std::string_view(cell_.text).substr(point);
        const qreal inset = frame.decimalInsets[static_cast<std::size_t>(place.column)] - text_.width(fraction);
        return text_.add(cell_.text, room.adjusted(0, 0, -std::clamp<qreal>(inset, 0, room.width() / 2), 0), align,
                         tone);
    }
    text_.add(cell_.text, room, align, tone);
}

const QPixmap& GridPainter::checkMark(const Tokens& look, bool checked, qreal pixelRatio) {
    if (checksLook_ != &look || checks_[0].devicePixelRatio() != pixelRatio) {
        checksLook_ = &look;
        for (const bool on : {false, true}) {
            QPixmap mark(QSize(kCheckPx, kCheckPx) * pixelRatio);
            mark.setDevicePixelRatio(pixelRatio);
            mark.fill(Qt::transparent);
            QPainter painter(&mark);
            drawCheck(painter, look, on);
            painter.end();
            checks_[on ? 1 : 0] = mark;
        }
    }
    return checks_[checked ? 1 : 0];
}

void GridPainter::paintGutter(QPainter& painter, const GridFrame& frame, std::int64_t line, int y) {
    const Tokens& t = frame.tokens;
    const QPointF centre(kGutter / 2.0 + 1, y + frame.rowHeight / 2.0 - 0.5);
    switch (frame.lines->recordMark(static_cast<ViewLine>(line))) {
        case CellMark::None:
        case CellMark::Saved: return;
        case CellMark::Saving:
            painter.setRenderHint(QPainter::Antialiasing, true);
            painter.setBrush(Qt::NoBrush);
            painter.setPen(QPen(t.hair, 2));
            painter.drawEllipse(centre, 5, 5);
            painter.setPen(QPen(t.teal, 2, Qt::SolidLine, Qt::RoundCap));
            painter.drawArc(QRectF(centre.x() - 5, centre.y() - 5, 10, 10), 30 * 16, 110 * 16);
            break;
        case CellMark::Refused: {
            painter.setRenderHint(QPainter::Antialiasing, true);
            QPainterPath triangle(centre + QPointF(0, -5.5));
            triangle.lineTo(centre + QPointF(6, 5));
            triangle.lineTo(centre + QPointF(-6, 5));
            triangle.closeSubpath();
            painter.setPen(QPen(t.buoy, 1.4, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
            painter.setBrush(t.buoyPale);
            painter.drawPath(triangle);
            painter.drawLine(centre + QPointF(0, -1.5), centre + QPointF(0, 1.2));
            painter.drawPoint(centre + QPointF(0, 3.1));
            break;
        }
    }
    painter.setRenderHint(QPainter::Antialiasing, false);
}

void GridPainter::paintPinnedEdge(QPainter& painter, const GridFrame& frame) {
    if (frame.columns.pinned() == 0) return;
    const int x = frame.columns.pinnedEnd(), height = frame.viewport.height();
    painter.fillRect(x - 1, frame.headerHeight, 1, height, frame.tokens.strongEdge);
    if (frame.scrollX == 0) return;
    QLinearGradient shadow(x, 0, x + 6, 0);
    shadow.setColorAt(0, QColor(40, 32, 16, frame.tokens.dark ? 90 : 26));
    shadow.setColorAt(1, QColor(40, 32, 16, 0));
    painter.fillRect(x, frame.headerHeight, 6, height, shadow);
}

void GridPainter::paintMessage(QPainter& painter, const GridFrame& frame) {
    painter.setPen(frame.tokens.ink2);
    painter.setFont(text_.font());
    painter.drawText(QRect(20, frame.headerHeight, frame.viewport.width() - 40,
                           std::min(frame.viewport.height() - frame.headerHeight, 160)),
                     Qt::AlignCenter | Qt::TextWordWrap, frame.message);
}

}  // namespace jollyrow
