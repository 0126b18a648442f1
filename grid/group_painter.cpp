// SPDX-License-Identifier: MIT
#include "grid/group_painter.h"

#include <cmath>

#include "grid/grid_painter.h"
#include "grid/grouped.h"

namespace jollyrow {
namespace {

using measure::kCellPadding;
using measure::kGutter;

constexpr int kChevronRoom = 18;

QFont weighted(QFont font, QFont::Weight weight) {
    font.setWeight(weight);
    return font;
}

/// A chevron to the right when closed, downwards when open.
void drawChevron(QPainter& painter, const QRect& rect, bool open, const QColor& colour) {
    const QPointF c = QRectF(rect).center();
    painter.setRenderHint(QPainter::Antialiasing, true);
    painter.setPen(QPen(colour, 1.6, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    painter.setBrush(Qt::NoBrush);
    const QPointF down[] = {c + QPointF(-3.5, -1.75), c + QPointF(0, 1.75), c + QPointF(3.5, -1.75)};
    const QPointF right[] = {c + QPointF(-1.75, -3.5), c + QPointF(1.75, 0), c + QPointF(-1.75, 3.5)};
    painter.drawPolyline(open ? down : right, 3);
    painter.setRenderHint(QPainter::Antialiasing, false);
}

}  // namespace

GroupPainter::GroupPainter(const QFont& font)
    : plain_(font), medium_(weighted(font, QFont::Medium)), bold_(weighted(font, QFont::DemiBold)) {}

int GroupPainter::lineHeight() const { return static_cast<int>(std::ceil(bold_.lineHeight())) + 1; }

QRect GroupPainter::chevronRect(const GridFrame& frame, int level, int y, int height) {
    return {6 + level * frame.groupIndent, y, kChevronRoom, height - 1};
}

int GroupPainter::figureWidth(const GroupText& groups, const Snapshot& snapshot, int column) const {
    std::vector<FigureText> figures;
    double widest = 0;
    const auto measure = [&] {
        for (const FigureText& figure : figures)
            widest = std::max(widest, static_cast<double>(bold_.width(figure.text)) +
                                          (figure.label.empty() ? 0.0 : plain_.width(figure.label) + 8.0));
    };
    if (!snapshot.groups) return 0;
    for (const TotalScope scope : {TotalScope::Filtered, TotalScope::All}) {
        groups.totals(scope, column, {}, figures);
        measure();
    }
    // Sums of groups are no wider than their total; means and captions may be.
    constexpr std::uint32_t kMeasured = 40;
    if (snapshot.grouped)
        for (std::uint32_t n = 0; n < std::min<std::size_t>(kMeasured, snapshot.grouped->tree().nodes.size()); ++n)
            for (const LineKind kind : {LineKind::Group, LineKind::GroupFooter}) {
                groups.figures({kind, kNoRow, n}, column, figures);
                measure();
            }
    return widest == 0 ? 0 : static_cast<int>(std::ceil(widest)) + 2 * kCellPadding + 2;
}

void GroupPainter::flush(QPainter& painter, const GridFrame& frame) {
    const Tokens& t = frame.tokens;
    const std::array<QColor, kTextTones> colours = {t.ink, t.ink2, t.buoyText, t.onTeal};
    for (GlyphText* text : {&plain_, &medium_, &bold_}) text->flush(painter, colours);
}

/// Figures under their columns, but for those that the caption stands over.
template <class Read>
void GroupPainter::collectFigures(QPainter& painter, const GridFrame& frame, int y, int height, int captionEnd,
                                  const Look& look, const QRect& clip, const Read& read) {
    for (const Zone zone : {Zone::Scrolled, Zone::Right, Zone::Left}) {
        const auto [from, to] = frame.columns.extent(zone);
        const QRect part = clip & QRect(from, 0, to - from, frame.viewport.height());
        const ColumnRange range = frame.columns.visible(zone, frame.scrollX);
        if (part.isEmpty()) continue;
        painter.setClipRect(part);
        for (int column = range.begin; column < range.end; ++column) {
            read(column);
            if (figures_.empty()) continue;
            const int x = frame.columns.x(column, frame.scrollX), width = frame.columns.width(column);
            const Alignment alignment = frame.plan.columns[static_cast<std::size_t>(column)].alignment;
            const bool right = alignment == Alignment::Right;
            const int count = static_cast<int>(figures_.size());
            const int top = y + (height - 1 - count * lineHeight()) / 2;
            for (int i = 0; i < count; ++i) {
                const FigureText& figure = figures_[static_cast<std::size_t>(i)];
                // Wider figures reach into the column beside rather than being cut, where nothing stands there.
                QRectF room = QRectF(x, top + i * lineHeight(), width, lineHeight())
                                  .adjusted(kCellPadding, 0, -kCellPadding, 0);
                const double needed = look.text->width(figure.text);
                if (!right && needed > room.width()) room.setWidth(needed);
                const double textLeft = right ? room.right() - std::min(needed, room.width()) : room.left();
                if (textLeft < captionEnd) continue;
                const TextTone tone = figure.isError ? TextTone::Error : look.tone;
                look.text->add(figure.text, room,
                               right                                ? GlyphText::Align::Right
                               : alignment == Alignment::Center ? GlyphText::Align::Center
                                                                : GlyphText::Align::Left,
                               tone);
                const double labelRoom = textLeft - room.left() - 6;
                if (!figure.label.empty() && right && plain_.width(figure.label) <= labelRoom)
                    plain_.add(figure.label, QRectF(room.left(), room.top(), labelRoom, room.height()),
                               GlyphText::Align::Left, TextTone::Quiet);
            }
        }
        flush(painter, frame);
    }
    painter.setClipRect(clip);
}

void GroupPainter::paintLine(QPainter& painter, const GridFrame& frame, const PinnedLine& row, const QRect& clip) {
    const GroupText* groups = frame.lines->groupText();
    const Line line = frame.lines->lineAt(static_cast<ViewLine>(row.line));
    if (!groups || !frame.grouped || line.kind == LineKind::Record) return;
    const GroupNode& node = frame.grouped->tree().nodes[line.group];
    const bool isFooter = line.kind == LineKind::GroupFooter;
    caption_.clear();
    groups->caption(line, caption_);
    const bool failed = isError(node.key.state);
    const Look look{isFooter ? &plain_ : node.level == 0 ? &bold_ : &medium_,
                    isFooter ? TextTone::Quiet : TextTone::Ink};

    const QRect mark = chevronRect(frame, node.level, row.y, row.height);
    const int captionX = mark.right() + 4 + (isFooter ? frame.groupIndent : 0);
    // The caption reaches to the first figure as columns stand unscrolled, or as far as it needs.
    int first = frame.viewport.width();
    for (int column = 0; column < frame.columns.count(); ++column) {
        groups->figures(line, column, figures_);
        if (figures_.empty()) continue;
        const bool right = frame.plan.columns[static_cast<std::size_t>(column)].alignment == Alignment::Right;
        const int x = frame.columns.x(column, 0);
        double widest = 0;
        for (const FigureText& figure : figures_)
            widest = std::max(widest, static_cast<double>(look.text->width(figure.text)));
        const int left = right ? x + frame.columns.width(column) - kCellPadding - static_cast<int>(widest) - 8 : x;
        if (left > captionX + 20) first = std::min(first, left);
    }
    const std::string count = isFooter || groups->showsCount() ? std::string()
                                                               : "  " + jollyrow::grouped(node.count).toStdString();
    const double needed = look.text->width(caption_), countWidth = count.empty() ? 0 : plain_.width(count);
    const double roomWidth = std::max<double>(60, std::min<double>(needed + countWidth, first - captionX - 4));
    const double captionWidth = std::min(needed, std::max(40.0, roomWidth - countWidth));

    collectFigures(painter, frame, row.y, row.height, static_cast<int>(captionX + captionWidth + 6), look, clip,
                   [&](int column) { groups->figures(line, column, figures_); });
    if (!isFooter)
        drawChevron(painter, mark, frame.grouped->isOpen(line.group),
                    node.level == 0 ? frame.tokens.ink : frame.tokens.ink2);
    look.text->add(caption_, QRectF(captionX, row.y, captionWidth + 1, row.height - 1), GlyphText::Align::Left,
                   failed ? TextTone::Error : look.tone);
    if (!count.empty() && captionWidth + countWidth <= roomWidth + 1)
        plain_.add(count, QRectF(captionX + captionWidth, row.y, countWidth + 1, row.height - 1),
                   GlyphText::Align::Left, TextTone::Quiet);
    flush(painter, frame);
    if (frame.hasFocus && frame.selection.current() && frame.selection.current()->line == row.line && !isFooter) {
        painter.setPen(QPen(frame.tokens.teal, 1));
        painter.setBrush(Qt::NoBrush);
        const int right = std::min(frame.viewport.width(), frame.columns.contentWidth()) - 1;
        painter.drawRect(QRect(0, row.y, right, row.height - 2));
        painter.drawRect(QRect(1, row.y + 1, right - 2, row.height - 4));
    }
}

void GroupPainter::paintTotals(QPainter& painter, const GridFrame& frame, const QRect& clip) {
    const GroupText* groups = frame.lines ? frame.lines->groupText() : nullptr;
    if (!groups || frame.totals.empty()) return;
    const Tokens& t = frame.tokens;
    const int top = frame.totals.front().y;
    const int bottom = frame.totals.back().y + frame.totals.back().height;
    const QRect band = clip & QRect(0, top - 2, frame.viewport.width(), bottom - top + 2);
    if (band.isEmpty()) return;
    painter.setClipRect(band);
    painter.fillRect(band, t.panel2);
    painter.fillRect(0, top - 2, frame.viewport.width(), 2, t.ink);
    for (const TotalRow& row : frame.totals) {
        if (row.y > top) painter.fillRect(0, row.y - 1, frame.viewport.width(), 1, t.hair);
        caption_ = row.caption.toStdString();
        const double needed = bold_.width(caption_);
        const double end = kGutter + kCellPadding + needed + 8;
        collectFigures(painter, frame, row.y, row.height, static_cast<int>(end), Look{&bold_, TextTone::Ink}, band,
                       [&](int column) { groups->totals(row.scope, column, frame.selectedFigures, figures_); });
        bold_.add(caption_, QRectF(kGutter + kCellPadding, row.y, needed + 1, row.height - 1), GlyphText::Align::Left,
                  TextTone::Ink);
        flush(painter, frame);
    }
}

}  // namespace jollyrow
