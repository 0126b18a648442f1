// SPDX-License-Identifier: MIT
// Idea: backgrounds for all rows first, then the text of each row as one glyph run a colour, once for the scrolled
// columns (clipped beside the pinned ones) and once for the pinned ones. Hairlines are filled rectangles, which the
// raster engine draws ten times faster than lines. Bench: bench/paint_bench.cpp.
#include "grid/paint/grid_painter.h"
#include "grid/paint/edit_marks.h"

#include "core/rules/utf8.h"
#include "grid/faces/cell_face.h"
#include "grid/faces/parts/part_face.h"
#include "grid/paint/axis_painter.h"
#include "grid/paint/contrast.h"
#include "grid/paint/line_looks.h"

#include <QPainterPath>

#include <limits>

namespace jollyrow {
namespace {

using measure::kCellPadding;
using measure::kGutter;

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

/// A record drawn as a heading.
const PlannedBanner* bannerOn(const GridFrame& frame, std::int64_t line) {
    return frame.plan.banners.empty() ? nullptr : frame.lines->banner(static_cast<ViewLine>(line));
}

bool isRecord(const GridFrame& frame, std::int64_t line) {
    return !frame.grouped || frame.lines->lineAt(static_cast<ViewLine>(line)).kind == LineKind::Record;
}

/// How bright a record is that somebody else has just changed.
double glowOf(const GridFrame& frame, std::int64_t line) {
    return frame.glow && isRecord(frame, line) ? frame.glow(frame.lines->rowAt(static_cast<ViewLine>(line))) : 0;
}

/// What shows behind a record.
QColor rowColour(const GridFrame& frame, std::int64_t line) {
    const Tokens& t = frame.tokens;
    const Line at = frame.grouped ? frame.lines->lineAt(static_cast<ViewLine>(line)) : Line{};
    if (at.kind != LineKind::Record) return groupBackground(frame, at, line);
    if (frame.selection.isRowSelected(frame.lines->rowAt(static_cast<ViewLine>(line)))) return t.tealPale;
    if (const double light = glowOf(frame, line); light > 0)
        return mixed(frame.stripes && line % 2 == 1 ? t.stripe : t.paper, t.brassPale, light);
    if (frame.hover && frame.crossLight && frame.hover->line == line) return t.hoverRow;
    if (const PlannedBanner* banner = bannerOn(frame, line))
        return banner->design.background.empty() ? t.panel2 : styleBackground(banner->design.background, t);
    return frame.stripes && line % 2 == 1 ? t.stripe : t.paper;
}

}  // namespace

GridPainter::GridPainter(const QFont& font) : text_(font), groups_(font) {}

void GridPainter::paint(QPainter& painter, const GridFrame& frame, const QRect& dirty) {
    const QRect all = QRect(0, frame.body.headerHeight(), frame.body.viewport().width(),
                            frame.body.viewport().height() - frame.body.headerHeight()) &
                      dirty;
    if (all.isEmpty()) return;
    looks_.clear();
    painter.save();
    painter.setClipRect(all);
    painter.fillRect(all, frame.tokens.paper);
    if (!frame.lines || frame.lines->lineCount() == 0) {
        paintMessage(painter, frame);
        painter.restore();
        return;
    }
    const QRect body =
        all & QRect(0, frame.body.top(), frame.body.viewport().width(), frame.body.bottom() - frame.body.top());
    Rows rows;
    for (std::int64_t line = frame.body.places().first(); line < frame.body.places().end(); ++line) {
        const int y = frame.body.places().top(line), height = frame.body.places().height(line);
        if (y + height > body.top() && y <= body.bottom()) rows.push_back({line, y, height});
    }
    if (!body.isEmpty()) paintRows(painter, frame, rows, body);
    if (!body.isEmpty()) paintSticky(painter, frame, body);
    const auto pinned = [&](const Rows& lines, int edgeY) {
        if (lines.empty()) return;
        const QRect band(0, lines.front().y, frame.body.viewport().width(),
                         lines.back().y + lines.back().height - lines.front().y);
        painter.setClipRect(band & all);
        painter.fillRect(band, frame.tokens.panel);
        paintRows(painter, frame, lines, band & all);
        painter.setClipRect(all);
        painter.fillRect(0, edgeY, frame.body.viewport().width(), 1, frame.tokens.strongEdge);
    };
    pinned(frame.pinnedTop, frame.body.top() - 1);
    pinned(frame.pinnedBottom, frame.body.bottom());
    painter.setClipRect(all);
    paintPinnedEdge(painter, frame);
    groups_.paintTotals(painter, frame, all);
    if (frame.axisTop) AxisPainter::paint(painter, frame, *frame.axisTop, text_.font(), all);
    painter.restore();
}

/// The lines of the groups around the first record in sight, and a soft edge beneath them.
void GridPainter::paintSticky(QPainter& painter, const GridFrame& frame, const QRect& clip) {
    if (frame.sticky.empty()) return;
    // From within: an outer group's line lies over one that is being pushed out.
    for (auto row = frame.sticky.rbegin(); row != frame.sticky.rend(); ++row) {
        const QRect part = clip & QRect(0, row->y, frame.body.viewport().width(), row->height);
        painter.setClipRect(part);
        painter.fillRect(part, frame.tokens.paper);
        paintRows(painter, frame, {*row}, part);
    }
    const int bottom = frame.sticky.back().y + frame.sticky.back().height;
    QLinearGradient shadow(0, bottom, 0, bottom + 4);
    shadow.setColorAt(0, QColor(40, 32, 16, frame.tokens.dark ? 90 : 30));
    shadow.setColorAt(1, QColor(40, 32, 16, 0));
    painter.setClipRect(clip);
    painter.fillRect(QRect(0, bottom, frame.body.viewport().width(), 4) & clip, shadow);
}

void GridPainter::paintRows(QPainter& painter, const GridFrame& frame, const Rows& rows, const QRect& clip) {
    painter.setClipRect(clip);
    paintBackgrounds(painter, frame, rows);
    for (const Zone zone : {Zone::Scrolled, Zone::Right, Zone::Left}) {
        const auto [from, to] = frame.body.columns().extent(zone);
        const Columns part{frame.body.columns().visible(zone, frame.body.scrollX()),
                           clip & QRect(from, 0, to - from, frame.body.viewport().height())};
        if (part.clip.isEmpty() || part.range.begin == part.range.end) continue;
        painter.setClipRect(part.clip);
        if (zone == Zone::Right)
            for (const PinnedLine& row : rows)
                painter.fillRect(from, row.y, to - from, row.height - (frame.hairlines ? 1 : 0),
                                 rowColour(frame, row.line));
        paintColumnTints(painter, frame, part);
        takeLooks(painter, frame, rows, part);
        paintTierLines(painter, frame, rows, part);
        coversTierLines_ = false;
        paintCells(painter, frame, rows, part);
        if (coversTierLines_) paintTierLines(painter, frame, rows, part);
    }
    painter.setClipRect(clip);
    for (const PinnedLine& row : rows) {
        if (isRecord(frame, row.line)) {
            const PlannedBanner* banner = bannerOn(frame, row.line);
            if (banner) paintBanner(painter, frame, row, *banner, clip);
            paintGutter(painter, frame, row);
            // Captions reach over the edge of the pinned columns.
            const bool drawsEdge = (frame.grouped || !frame.plan.banners.empty()) && !banner;
            if (drawsEdge && frame.body.columns().pinned().left > 0)
                painter.fillRect(frame.body.columns().pinnedEnd() - 1, row.y, 1, row.height, frame.tokens.strongEdge);
        } else {
            groups_.paintLine(painter, frame, row, clip);
        }
    }
}

void GridPainter::paintBackgrounds(QPainter& painter, const GridFrame& frame, const Rows& rows) {
    const Tokens& t = frame.tokens;
    const int used =
        std::min(frame.body.viewport().width(), frame.body.columns().contentWidth() -
                                                    (frame.body.columns().maxScroll() == 0 ? 0 : frame.body.scrollX()));
    const int right = frame.body.columns().pinned().right > 0
                          ? std::min(frame.body.viewport().width(), frame.body.columns().contentWidth())
                          : used;
    for (const PinnedLine& row : rows) {
        const QColor colour = rowColour(frame, row.line);
        const bool selected = colour == t.tealPale;
        if (colour != t.paper) painter.fillRect(0, row.y, right, row.height, colour);
        if (selected) painter.fillRect(0, row.y, 3, row.height, t.teal);
        // A style may have the glow's colour: what others changed is marked by a bar, too.
        if (const double light = glowOf(frame, row.line); light > 0) {
            painter.setOpacity(light);
            painter.fillRect(selected ? 4 : 0, row.y, 4, row.height - 1, t.brass);
            painter.setOpacity(1);
        }
        const bool isGroup = !isRecord(frame, row.line);
        if (frame.hairlines || isGroup)
            painter.fillRect(0, row.y + row.height - 1, right, 1,
                             selected  ? t.tealPaleEdge
                             : isGroup ? t.hair
                                       : t.hair2);
    }
}

void GridPainter::paintColumnTints(QPainter& painter, const GridFrame& frame, const Columns& columns) {
    const int height = frame.body.viewport().height();
    const auto tint = [&](int column, const QColor& colour) {
        if (column < columns.range.begin || column >= columns.range.end) return;
        painter.fillRect(frame.body.columns().x(column, frame.body.scrollX()), 0, frame.body.columns().width(column),
                         height, colour);
    };
    if (frame.hover && frame.crossLight) tint(frame.hover->column, frame.tokens.crossLight);
    QColor chosen = frame.tokens.teal;
    chosen.setAlphaF(0.10F);
    for (const int column : frame.selectedColumns) tint(column, chosen);
    for (const int column : frame.designColumns) {
        if (column < columns.range.begin || column >= columns.range.end || frame.body.columns().line(column) > 0)
            continue;
        const int x = frame.body.columns().x(column, frame.body.scrollX()), w = frame.body.columns().width(column);
        QColor colour = frame.tokens.brass, edge = frame.tokens.brass;
        colour.setAlphaF(0.055F);
        edge.setAlphaF(0.55F);
        painter.fillRect(x, 0, w, height, colour);
        // Neighbours that are both selected share one frame.
        if (!frame.isDesigned(column - 1)) painter.fillRect(x, 0, 1, height, edge);
        if (!frame.isDesigned(column + 1)) painter.fillRect(x + w - 1, 0, 1, height, edge);
    }
}

/// A faint line down the records where a top tier begins or ends.
void GridPainter::paintTierLines(QPainter& painter, const GridFrame& frame, const Rows& rows, const Columns& columns) {
    const QColor colour = frame.tokens.dark ? QColor(255, 240, 210, 26) : QColor(120, 100, 60, 33);
    const int height = frame.body.viewport().height();
    // A picture of the line is blended several times faster than a rectangle of its colour.
    const QSize size(1, std::max(1, height));
    const QRgb ink = qPremultiply(colour.rgba());
    if (tierLine_.size() != size || tierLine_.pixel(0, 0) != ink) {
        tierLine_ = QImage(size, QImage::Format_ARGB32_Premultiplied);
        tierLine_.fill(colour);
    }
    const bool isFine = painter.device()->devicePixelRatioF() != 1;
    const auto part = [&](int x, int y, int length) {
        isFine ? painter.fillRect(x, y, 1, length, colour)
               : painter.drawImage(QPoint(x, y), tierLine_, QRect(0, 0, 1, std::min(length, height)));
    };
    const auto draw = [&](int x) {
        if (!frame.grouped) return part(x, 0, height);
        for (const PinnedLine& row : rows)  // captions reach over columns
            if (isRecord(frame, row.line)) part(x, row.y, row.height);
    };
    for (const PlannedTier& tier : frame.plan.tiers) {
        if (tier.level != 0) break;
        if (tier.first > columns.range.begin && tier.first < columns.range.end)
            draw(frame.body.columns().x(tier.first, frame.body.scrollX()));
        if (tier.end > columns.range.begin && tier.end < columns.range.end)
            draw(frame.body.columns().x(tier.end, frame.body.scrollX()));
    }
}

/// Texts are drawn of so many records together: few calls, on pixels that are still in the processor's cache.
static constexpr int kRowsAtOnce = 4;

void GridPainter::paintCells(QPainter& painter, const GridFrame& frame, const Rows& rows, const Columns& columns) {
    const Tokens& t = frame.tokens;
    const std::array<QColor, kTextTones> colours = {t.ink, t.ink2, t.buoyText, t.onTeal};
    const CellLook plain;
    int sinceDrawn = 0;
    for (std::size_t i = 0; i < rows.size(); ++i) {
        const PinnedLine& row = rows[i];
        if (!isRecord(frame, row.line) || bannerOn(frame, row.line)) continue;
        for (int column = columns.range.begin; column < columns.range.end; ++column) {
            if (frame.plan.columns[static_cast<std::size_t>(column)].design.merge) continue;
            paintCell(painter, frame, {row.line, column}, frame.body.partOf(column, row.y, row.height),
                      cellLooks_.empty() ? plain : cellLooks_[i * columns.count() + columns.at(column)]);
        }
        if (++sinceDrawn % kRowsAtOnce != 0) continue;
        text_.flush(painter, colours);
        flushStyled(painter);
    }
    for (int column = columns.range.begin; column < columns.range.end; ++column)
        if (frame.plan.columns[static_cast<std::size_t>(column)].design.merge)
            paintMerged(painter, frame, rows, column);
    text_.flush(painter, colours);
    flushStyled(painter);
}

/// What the cells of records look like, by row and column. Backgrounds are painted here, beneath the lines of tiers.
void GridPainter::takeLooks(QPainter& painter, const GridFrame& frame, const Rows& rows, const Columns& columns) {
    cellLooks_.clear();
    if (frame.plan.styles.empty()) return;
    cellLooks_.resize(rows.size() * columns.count());
    for (std::size_t i = 0; i < rows.size(); ++i)
        if (isRecord(frame, rows[i].line) && !bannerOn(frame, rows[i].line))
            takeLooks(painter, frame, rows[i], columns, &cellLooks_[i * columns.count()]);
}

/// Backgrounds of neighbours are painted in one piece.
void GridPainter::takeLooks(QPainter& painter, const GridFrame& frame, const PinnedLine& row, const Columns& columns,
                            CellLook* looks) {
    QRect piece;
    QColor colour;
    const auto fill = [&] {
        if (colour.isValid()) painter.fillRect(piece.adjusted(0, 0, 0, -1), colour);
        colour = {};
    };
    for (int column = columns.range.begin; column < columns.range.end; ++column) {
        if (frame.plan.columns[static_cast<std::size_t>(column)].design.merge) continue;
        CellLook& look = looks[columns.at(column)];
        look = cellLook(frame, {row.line, column}, looks_);
        if (!look.background.isValid()) continue;
        const QRect rect = frame.body.partOf(column, row.y, row.height);
        const bool goesOn = colour == look.background && rect.left() == piece.right() + 1 &&
                            rect.top() == piece.top() && rect.bottom() == piece.bottom();
        if (!goesOn) fill();
        piece = goesOn ? piece | rect : rect;
        colour = look.background;
    }
    fill();
}

/// Equal neighbours show their value once, on the first of them that is in sight, and no line between them.
void GridPainter::paintMerged(QPainter& painter, const GridFrame& frame, const Rows& rows, int column) {
    mergedText_.clear();
    for (std::size_t i = 0; i < rows.size(); ++i) {
        if (!isRecord(frame, rows[i].line) || bannerOn(frame, rows[i].line)) {
            mergedText_.clear();
            continue;
        }
        const QRect rect = frame.body.partOf(column, rows[i].y, rows[i].height);
        frame.lines->cell(static_cast<ViewLine>(rows[i].line), column, cell_);
        const bool isCurrent = frame.selection.current() == CellPlace{rows[i].line, column} && frame.hasFocus;
        const bool same = i > 0 && rows[i - 1].line + 1 == rows[i].line && isRecord(frame, rows[i - 1].line) &&
                          !bannerOn(frame, rows[i - 1].line) && cell_.text == mergedText_ &&
                          cell_.mark < CellMark::Invalid &&
                          !cell_.isComposed;  // equal texts may stand beside other marks and bars
        if (same) painter.fillRect(rect.left(), rect.top() - 1, rect.width(), 1, rowColour(frame, rows[i - 1].line));
        mergedText_ = cell_.text;
        if (same && !isCurrent) continue;
        const CellLook look = cellLook(frame, {rows[i].line, column}, looks_);
        if (look.background.isValid())
            painter.fillRect(rect.adjusted(0, 0, 0, -1), look.background), coversTierLines_ = true;
        paintCell(painter, frame, {rows[i].line, column}, rect, look);
    }
}

void GridPainter::paintCell(QPainter& painter, const GridFrame& frame, CellPlace place, const QRect& rect,
                            const CellLook& look) {
    const Tokens& t = frame.tokens;
    const PlannedColumn& column = frame.plan.columns[static_cast<std::size_t>(place.column)];
    frame.lines->cell(static_cast<ViewLine>(place.line), place.column, cell_);
    const bool refused = cell_.mark == CellMark::Refused || cell_.mark == CellMark::Invalid;
    if (refused) {
        painter.fillRect(rect.adjusted(0, 0, 0, -1), t.buoyPale);
        painter.setPen(QPen(t.buoy, 1));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(rect.adjusted(0, 0, -1, -2));
    } else if (frame.selection.isOfCells() && frame.selection.isCellSelected(place)) {
        painter.fillRect(rect.adjusted(0, 0, 0, -1), t.tealPale);
    } else if (frame.find && !cell_.isEmpty &&
               frame.find->marks(static_cast<std::size_t>(place.column), lowered(cell_.text))) {
        painter.setPen(QPen(t.tealPaleEdge, 1));
        painter.setBrush(t.tealPale);
        painter.drawRect(rect.adjusted(1, 2, -2, -4));
    }
    if (frame.selection.current() == place && frame.hasFocus) {
        painter.setPen(QPen(t.teal, 1));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(rect.adjusted(0, 0, -1, -2));
        painter.drawRect(rect.adjusted(1, 1, -2, -3));
    }
    if (cell_.isPending) return drawPending(painter, rect, t, place);
    if (cell_.mark == CellMark::Draft) drawPennant(painter, rect, t, column.alignment == Alignment::Right);
    if (cell_.mark == CellMark::Conflict) drawFacingBrackets(painter, rect, t);
    const TextTone tone = cell_.isEmpty || cell_.isDeleted ? TextTone::Quiet
                          : refused || cell_.isMisfit      ? TextTone::Error
                                                           : TextTone::Ink;
    const FaceCell cell{column, cell_, rect, tone, frame.decimalInsets[static_cast<std::size_t>(place.column)]};
    if (!look.isPlain() && !refused) return paintStyled(painter, frame, cell, look);
    if (cell_.isEmpty) return text_.add(column.design.format.empty, cell.room(), cell.align(), tone);
    if (cell_.isMisfit) {  // a corner, so that it is not told by colour alone
        for (int i = 0; i < 6; ++i) painter.fillRect(rect.right() - 5 + i, rect.top() + 1 + i, 6 - i, 1, t.buoy);
    }
    faceOf(column).paint({painter, text_, t, frame.pictures}, cell);
    if (cell_.isDeleted && !cell_.isComposed) strike(painter, cell, text_);
}

/// One heading across all columns, which stays where it is when they are scrolled.
void GridPainter::paintBanner(QPainter& painter, const GridFrame& frame, const PinnedLine& row,
                              const PlannedBanner& banner, const QRect& clip) {
    const Tokens& t = frame.tokens;
    const int right = std::min(frame.body.viewport().width(), frame.body.columns().contentWidth());
    const QColor behind = rowColour(frame, row.line);
    const QRect area(kGutter, row.y, std::max(0, right - kGutter), row.height - 1);
    painter.setClipRect(clip);
    painter.fillRect(area, behind);
    if (!frame.selection.isRowSelected(frame.lines->rowAt(static_cast<ViewLine>(row.line))))
        painter.fillRect(0, row.y + row.height - 1, right, 1, t.strongEdge);
    bannerText_.clear();
    frame.lines->caption(static_cast<ViewLine>(row.line), bannerText_);
    CellLook look;
    look.weight = banner.design.weight == LineWeight::Theme ? LineWeight::Bold : banner.design.weight;
    GlyphText& glyphs = styledTexts(look).glyphs;
    const QColor ink = legible(banner.design.ink.empty() ? t.ink : textInk(banner.design.ink, t, t.ink), behind);
    const GlyphText::Align align = banner.design.alignment == Alignment::Right    ? GlyphText::Align::Right
                                   : banner.design.alignment == Alignment::Center ? GlyphText::Align::Center
                                                                                  : GlyphText::Align::Left;
    if (frame.find && frame.find->marks(std::numeric_limits<std::size_t>::max(), lowered(bannerText_)))
        painter.fillRect(area.adjusted(3, 3, -3, -3), t.tealPale);
    glyphs.add(bannerText_, QRectF(area).adjusted(kCellPadding, 0, -kCellPadding, 0), align, TextTone::Ink);
    glyphs.flush(painter, {ink, ink, ink, t.onTeal});
    // Which of its cells the keys are on.
    const auto current = frame.selection.current();
    if (!current || current->line != row.line || !frame.hasFocus) return;
    const auto [from, to] = frame.body.columns().extent(frame.body.columns().zoneOf(current->column));
    painter.setClipRect(clip & QRect(from, 0, to - from, frame.body.viewport().height()));
    const QRect cell = frame.body.partOf(current->column, row.y, row.height);
    painter.setPen(QPen(t.teal, 1));
    painter.setBrush(Qt::NoBrush);
    painter.drawRect(cell.adjusted(0, 0, -1, -2));
    painter.drawRect(cell.adjusted(1, 1, -2, -3));
    painter.setClipRect(clip);
}

GridPainter::StyledTexts& GridPainter::styledTexts(const CellLook& look) {
    const auto key = std::pair(look.weight, look.italic);
    auto made = styled_.find(key);
    if (made == styled_.end()) {
        QFont font = weighted(text_.font(), look.fontWeight());
        font.setItalic(look.italic);
        made = styled_.emplace(key, StyledTexts{GlyphText(font)}).first;
    }
    return made->second;
}

TextTone GridPainter::toneOf(StyledTexts& texts, QPainter& painter, const QColor& ink) {
    for (std::size_t i = 0; i < texts.used; ++i)
        if (texts.inks[i] == ink) return static_cast<TextTone>(i);
    if (texts.used == kTextTones) {
        texts.glyphs.flush(painter, texts.inks);
        texts.used = 0;
    }
    texts.inks[texts.used] = ink;
    return static_cast<TextTone>(texts.used++);
}

void GridPainter::flushStyled(QPainter& painter) {
    for (auto& [weight, texts] : styled_) {
        if (texts.used > 0) texts.glyphs.flush(painter, texts.inks);
        texts.used = 0;
    }
}

void GridPainter::paintStyled(QPainter& painter, const GridFrame& frame, const FaceCell& cell, const CellLook& look) {
    StyledTexts& texts = styledTexts(look);
    const Tokens& t = frame.tokens;
    const QColor behind = look.background.isValid() ? look.background : t.paper;
    FaceCell styled = cell;
    styled.rect = paintIcon(painter, look, cell.rect);
    if (!cell.text.isComposed || cell.text.isEmpty)
        styled.tone = toneOf(texts, painter,
                             cell.text.isEmpty              ? legible(t.ink2, behind)
                             : cell.tone == TextTone::Error ? legible(t.buoyText, behind)
                                                            : look.ink);
    if (cell.text.isEmpty) {
        texts.glyphs.add(cell.column.design.format.empty, styled.room(), cell.align(), styled.tone);
    } else if (cell.text.isComposed) {
        // Its parts have inks of their own: they stand out from what is behind them, too.
        Tokens on = t;
        on.paper = behind;
        on.ink = look.ink;
        for (QColor Tokens::*ink : {&Tokens::ink2, &Tokens::tealText, &Tokens::buoyText, &Tokens::brassText})
            on.*ink = legible(t.*ink, behind);
        for (QColor Tokens::*ink : {&Tokens::ink3, &Tokens::teal, &Tokens::buoy, &Tokens::brass, &Tokens::blue})
            on.*ink = legible(t.*ink, behind, 3);
        faceOf(cell.column).paint({painter, texts.glyphs, on, frame.pictures}, styled);
    } else {
        if (cell.text.isMisfit)
            for (int i = 0; i < 6; ++i)
                painter.fillRect(cell.rect.right() - 5 + i, cell.rect.top() + 1 + i, 6 - i, 1, t.buoy);
        faceOf(cell.column).paint({painter, texts.glyphs, t, frame.pictures}, styled);
    }
    if (cell.text.isDeleted && !cell.text.isComposed) return strike(painter, styled, texts.glyphs);
    if (!look.strike || cell.text.isComposed || cell.text.isEmpty) return;
    const QRectF room = styled.room();
    const qreal width = std::min(room.width(), texts.glyphs.width(cell.text.text));
    const qreal left = cell.align() == GlyphText::Align::Right    ? room.right() - width
                       : cell.align() == GlyphText::Align::Center ? room.center().x() - width / 2
                                                                  : room.left();
    painter.fillRect(QRectF(left, std::round(room.center().y()), width, 1), look.ink);
}

void GridPainter::strike(QPainter& painter, const FaceCell& cell, const GlyphText& glyphs) {
    const QRectF room = cell.room();
    const qreal width = std::min(room.width(), glyphs.width(cell.text.text));
    const qreal left = cell.align() == GlyphText::Align::Right    ? room.right() - width
                       : cell.align() == GlyphText::Align::Center ? room.center().x() - width / 2
                                                                  : room.left();
    painter.fillRect(QRectF(left, std::round(room.center().y()), width, 1), QColor(QStringLiteral("#9AA2A3")));
}

void GridPainter::paintGutter(QPainter& painter, const GridFrame& frame, const PinnedLine& row) {
    const QPointF centre(kGutter / 2.0 + 1, row.y + row.height / 2.0 - 0.5);
    const auto line = static_cast<ViewLine>(row.line);
    const CellMark mark = frame.lines->recordMark(line);
    if (mark > CellMark::Saved) return drawRecordMark(painter, centre, frame.tokens, mark);
    if (!frame.outOfPlace || !frame.outOfPlace->contains(frame.lines->rowAt(line))) return;
    // Up and down: it belongs elsewhere.
    painter.setRenderHint(QPainter::Antialiasing, true);
    painter.setPen(QPen(frame.tokens.brass, 1.6, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    for (const int way : {-1, 1}) {
        const QPointF tip = centre + QPointF(0, way * 6.0);
        painter.drawLine(centre + QPointF(0, way * 1.5), tip);
        painter.drawLine(tip, tip + QPointF(-3, -way * 3.0));
        painter.drawLine(tip, tip + QPointF(3, -way * 3.0));
    }
    painter.setRenderHint(QPainter::Antialiasing, false);
}

void GridPainter::paintPinnedEdge(QPainter& painter, const GridFrame& frame) {
    const int height = frame.body.viewport().height();
    const QColor dark(40, 32, 16, frame.tokens.dark ? 90 : 26), clear(40, 32, 16, 0);
    if (frame.body.columns().pinned().left > 0) {
        const int x = frame.body.columns().pinnedEnd();
        if (!frame.grouped && frame.plan.banners.empty())
            painter.fillRect(x - 1, frame.body.headerHeight(), 1, height, frame.tokens.strongEdge);
        if (frame.body.scrollX() > 0) {
            QLinearGradient shadow(x, 0, x + 6, 0);
            shadow.setColorAt(0, dark);
            shadow.setColorAt(1, clear);
            painter.fillRect(x, frame.body.headerHeight(), 6, height, shadow);
        }
    }
    if (frame.body.columns().pinned().right > 0) {
        const int x = frame.body.columns().rightStart();
        painter.fillRect(x, frame.body.headerHeight(), 1, height, frame.tokens.strongEdge);
        if (frame.body.scrollX() < frame.body.columns().maxScroll()) {
            QLinearGradient shadow(x - 6, 0, x, 0);
            shadow.setColorAt(0, clear);
            shadow.setColorAt(1, dark);
            painter.fillRect(x - 6, frame.body.headerHeight(), 6, height, shadow);
        }
    }
}

void GridPainter::paintMessage(QPainter& painter, const GridFrame& frame) {
    painter.setPen(frame.tokens.ink2);
    painter.setFont(text_.font());
    painter.drawText(QRect(20, frame.body.headerHeight(), frame.body.viewport().width() - 40,
                           std::min(frame.body.viewport().height() - frame.body.headerHeight(), 160)),
                     Qt::AlignCenter | Qt::TextWordWrap, frame.message);
}

}  // namespace jollyrow
