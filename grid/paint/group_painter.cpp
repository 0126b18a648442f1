// SPDX-License-Identifier: MIT
#include "grid/paint/group_painter.h"

#include <cmath>

#include "grid/paint/contrast.h"
#include "grid/paint/grid_painter.h"
#include "grid/paint/grouped.h"

namespace jollyrow {
namespace {

using measure::kCellPadding;
using measure::kGutter;

constexpr int kChevronRoom = 18;
constexpr double kCaptionRoom = 220;  // that a caption may take over figures
constexpr int kLeastFigure = 24;      // pixels of its column that are left to a figure that gives way

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
    return widest == 0 ? 0
                       : static_cast<int>(std::ceil(widest)) + 2 * kCellPadding + 2 +
                             (groups.hasIcons(column) ? measure::kIconRoom : 0);
}

void GroupPainter::flush(QPainter& painter, const GridFrame& frame) {
    const Tokens& t = frame.tokens;
    const std::array<QColor, kTextTones> colours = {t.ink, t.ink2, t.buoyText, t.onTeal};
    for (GlyphText* text : {&plain_, &medium_, &bold_}) text->flush(painter, colours);
}

template <class Read>
void GroupPainter::place(const GridFrame& frame, int y, int height, int captionEnd, const GlyphText& text,
                         const Read& read) const {
    placed_.clear();
    hiddenCount_.clear();
    const GroupText* groups = frame.lines->groupText();
    for (const Zone zone : {Zone::Scrolled, Zone::Right, Zone::Left}) {
        const ColumnRange range = frame.body.columns().visible(zone, frame.body.scrollX());
        for (int column = range.begin; column < range.end; ++column) {
            read(column);
            if (figures_.empty()) continue;
            const int x = frame.body.columns().x(column, frame.body.scrollX()),
                      width = frame.body.columns().width(column);
            const bool right = frame.plan.columns[static_cast<std::size_t>(column)].alignment == Alignment::Right;
            const int count = static_cast<int>(figures_.size());
            const int top = y + (height - 1 - count * lineHeight()) / 2;
            for (int i = 0; i < count; ++i) {
                QRectF room =
                    QRectF(x, top + i * lineHeight(), width, lineHeight()).adjusted(kCellPadding, 0, -kCellPadding, 0);
                const double needed = text.width(figures_[static_cast<std::size_t>(i)].text);
                // One under a column of texts gives way to the caption, and reaches into the next column rather than
                // being cut.
                if (!right && room.left() < captionEnd && captionEnd + kLeastFigure < x + width)
                    room.setLeft(captionEnd + 8);
                if (!right && needed > room.width()) room.setWidth(needed);
                QRectF shown = room;
                shown.setWidth(std::min(needed, room.width()));
                if (right) shown.moveRight(room.right());
                if (shown.left() < captionEnd && groups->countsRecords(figures_[static_cast<std::size_t>(i)].summary))
                    hiddenCount_ = figures_[static_cast<std::size_t>(i)].text;
                if (shown.left() >= captionEnd)
                    placed_.push_back({figures_[static_cast<std::size_t>(i)], room, shown, column, zone});
            }
        }
    }
    // One that reaches into further columns ends before the figures there.
    for (Placed& placed : placed_)
        for (const Placed& other : placed_) {
            const bool beside = other.text.top() < placed.text.bottom() && placed.text.top() < other.text.bottom();
            if (!beside || other.text.left() <= placed.text.left() || other.text.left() - 8 >= placed.text.right())
                continue;
            placed.room.setRight(other.text.left() - 8);
            placed.text.setRight(std::min(placed.text.right(), placed.room.right()));
        }
}

void GroupPainter::placeLine(const GridFrame& frame, const PinnedLine& row) const {
    placed_.clear();
    caption_.clear();
    count_.clear();
    const GroupText* groups = frame.lines->groupText();
    const Line line = frame.lines->lineAt(static_cast<ViewLine>(row.line));
    if (!groups || !frame.grouped || line.kind == LineKind::Record) return;
    const GroupNode& node = frame.grouped->tree().nodes[line.group];
    const bool isFooter = line.kind == LineKind::GroupFooter;
    groups->caption(line, caption_);
    const GlyphText& text = textOf(groupWeight(frame, line));
    captionX_ = chevronRect(frame, node.level, row.y, row.height).right() + 4 + (isFooter ? frame.groupIndent : 0);
    // The caption reaches to the first figure as columns stand unscrolled, or as far as it needs.
    int first = frame.body.viewport().width();
    for (int column = 0; column < frame.body.columns().count(); ++column) {
        groups->figures(line, column, figures_);
        if (figures_.empty()) continue;
        const bool right = frame.plan.columns[static_cast<std::size_t>(column)].alignment == Alignment::Right;
        const int x = frame.body.columns().x(column, 0);
        double widest = 0;
        for (const FigureText& figure : figures_)
            widest = std::max(widest, static_cast<double>(text.width(figure.text)));
        const int left =
            right ? x + frame.body.columns().width(column) - kCellPadding - static_cast<int>(widest) - 8 : x;
        if (left > captionX_ + 20) first = std::min(first, left);
    }
    if (!isFooter && !groups->tellsCount(line)) count_ = "  " + jollyrow::grouped(groups->records(line)).toStdString();
    const double needed = text.width(caption_);
    countWidth_ = count_.empty() ? 0 : plain_.width(count_);
    const double room = std::min<double>(needed + countWidth_, std::max<double>(kCaptionRoom, first - captionX_ - 4));
    captionWidth_ = std::min(needed, std::max(40.0, room - countWidth_));
    if (captionWidth_ + countWidth_ > room + 1) count_.clear();
    place(frame, row.y, row.height,
          static_cast<int>(captionX_ + captionWidth_ + (count_.empty() ? 0 : countWidth_) + 6), text,
          [&](int column) { groups->figures(line, column, figures_); });
    tellHiddenCount();
}

/// A count that the caption stands over is told behind the caption, where there is room.
void GroupPainter::tellHiddenCount() const {
    if (!count_.empty() || hiddenCount_.empty()) return;
    count_ = "  " + hiddenCount_;
    countWidth_ = plain_.width(count_);
    for (const Placed& placed : placed_)
        if (placed.text.left() < captionX_ + captionWidth_ + countWidth_) return count_.clear();
}

void GroupPainter::placeTotals(const GridFrame& frame, const TotalRow& row) const {
    const GroupText* groups = frame.lines ? frame.lines->groupText() : nullptr;
    placed_.clear();
    if (!groups) return;
    caption_ = row.caption.toStdString();
    captionX_ = kGutter + kCellPadding;
    const GlyphText& text = textOf(totalWeight(frame));
    captionWidth_ = text.width(caption_);
    place(frame, row.y, row.height, static_cast<int>(captionX_ + captionWidth_ + 8), text,
          [&](int column) { groups->totals(row.scope, column, frame.selectedFigures, figures_); });
    count_.clear();
    tellHiddenCount();
}

std::optional<GroupPainter::Hit> GroupPainter::figureAt(const GridFrame& frame, const PinnedLine& row,
                                                        QPoint position) const {
    placeLine(frame, row);
    for (const Placed& placed : placed_)
        if (placed.text.adjusted(-4, 0, 4, 0).contains(position))
            return Hit{placed.figure.summary, placed.room.toAlignedRect()};
    return std::nullopt;
}

std::optional<GroupPainter::Hit> GroupPainter::figureAt(const GridFrame& frame, const TotalRow& row,
                                                        QPoint position) const {
    placeTotals(frame, row);
    for (const Placed& placed : placed_)
        if (placed.text.adjusted(-4, 0, 4, 0).contains(position))
            return Hit{placed.figure.summary, placed.room.toAlignedRect()};
    return std::nullopt;
}

std::vector<GroupPainter::Hit> GroupPainter::figuresOn(const GridFrame& frame, const PinnedLine& row) const {
    placeLine(frame, row);
    return placedHits();
}

std::vector<GroupPainter::Hit> GroupPainter::figuresOn(const GridFrame& frame, const TotalRow& row) const {
    placeTotals(frame, row);
    return placedHits();
}

std::vector<GroupPainter::Hit> GroupPainter::placedHits() const {
    std::vector<Hit> hits;
    for (const Placed& placed : placed_) hits.push_back({placed.figure.summary, placed.room.toAlignedRect()});
    std::stable_sort(hits.begin(), hits.end(), [](const Hit& a, const Hit& b) { return a.rect.x() < b.rect.x(); });
    return hits;
}

CellLook GroupPainter::styled(const GridFrame& frame, const Look& look, std::optional<std::size_t> summary) const {
    if (!look.styleOf && !look.ink.isValid()) return {};
    const Tokens& t = frame.tokens;
    const CellStyle style = look.styleOf ? look.styleOf(summary) : CellStyle{};
    CellLook own = lookOf(style, look.behind,
                          look.tone == TextTone::OnDark  ? t.onTeal
                          : look.tone == TextTone::Quiet ? t.ink2
                                                         : t.ink,
                          t);
    if (look.ink.isValid() && !style.ink) {
        own.isStyled = true;
        own.ink = legible(look.ink, own.background.isValid() ? own.background : look.behind);
    }
    if (own.weight == LineWeight::Theme) own.weight = look.weight;
    return own;
}

void GroupPainter::paintStyledText(QPainter& painter, const CellLook& own, std::string_view text, const QRectF& room,
                                   GlyphText::Align align) {
    const auto key = std::pair(own.weight, own.italic);
    auto made = styled_.find(key);
    if (made == styled_.end()) {
        QFont font = textOf(own.weight).font();
        font.setItalic(own.italic);
        made = styled_.emplace(key, GlyphText(font)).first;
    }
    GlyphText& glyphs = made->second;
    glyphs.add(text, room, align, TextTone::Ink);
    glyphs.flush(painter, {own.ink, own.ink, own.ink, own.ink});
    if (!own.strike) return;
    const qreal width = std::min(room.width(), glyphs.width(text));
    const qreal left = align == GlyphText::Align::Right ? room.right() - width : room.left();
    painter.fillRect(QRectF(left, std::round(room.center().y()), width, 1), own.ink);
}

void GroupPainter::paintFigure(QPainter& painter, const GridFrame& frame, const Look& look, std::size_t index) {
    const Placed& placed = placed_[index];
    const Alignment alignment = frame.plan.columns[static_cast<std::size_t>(placed.column)].alignment;
    const bool right = alignment == Alignment::Right;
    const GlyphText::Align align = right                            ? GlyphText::Align::Right
                                   : alignment == Alignment::Center ? GlyphText::Align::Center
                                                                    : GlyphText::Align::Left;
    const CellLook own = styled(frame, look, placed.figure.summary);
    if (own.background.isValid() || own.icon != MarkShape::None) {
        const bool isAlone = std::count_if(placed_.begin(), placed_.end(),
                                           [&](const Placed& other) { return other.column == placed.column; }) == 1;
        const QRect room = placed.room.toAlignedRect();
        const QRect cell(frame.body.columns().x(placed.column, frame.body.scrollX()), isAlone ? look.y : room.top(),
                         frame.body.columns().width(placed.column), isAlone ? look.height - 1 : room.height());
        if (own.background.isValid()) painter.fillRect(cell, own.background);
        if (placed.text.left() >= cell.left() + kCellPadding + measure::kIconRoom) paintIcon(painter, own, cell);
    }
    if (own.isPlain() || placed.figure.isError)
        look.text->add(placed.figure.text, placed.room, align, placed.figure.isError ? TextTone::Error : look.tone);
    else
        paintStyledText(painter, own, placed.figure.text, placed.room, align);
    const double labelRoom = placed.text.left() - placed.room.left() - 6;
    if (!placed.figure.label.empty() && right && own.icon == MarkShape::None &&
        plain_.width(placed.figure.label) <= labelRoom)
        plain_.add(placed.figure.label, QRectF(placed.room.left(), placed.room.top(), labelRoom, placed.room.height()),
                   GlyphText::Align::Left, look.quiet);
}

void GroupPainter::paintPlaced(QPainter& painter, const GridFrame& frame, const Look& look, const QRect& clip) {
    for (const Zone zone : {Zone::Scrolled, Zone::Right, Zone::Left}) {
        const auto [from, to] = frame.body.columns().extent(zone);
        const QRect part = clip & QRect(from, 0, to - from, frame.body.viewport().height());
        if (part.isEmpty()) continue;
        painter.setClipRect(part);
        for (const Placed& placed : placed_) {
            if (placed.zone != zone) continue;
            paintFigure(painter, frame, look, static_cast<std::size_t>(&placed - placed_.data()));
        }
        flush(painter, frame);
    }
    painter.setClipRect(clip);
}

void GroupPainter::paintLine(QPainter& painter, const GridFrame& frame, const PinnedLine& row, const QRect& clip) {
    placeLine(frame, row);
    const Line line = frame.lines->lineAt(static_cast<ViewLine>(row.line));
    if (!frame.grouped || line.kind == LineKind::Record) return;
    const GroupNode& node = frame.grouped->tree().nodes[line.group];
    const bool isFooter = line.kind == LineKind::GroupFooter;
    const bool light = groupWantsLightText(frame, line, row.line);
    const LineWeight weight = groupWeight(frame, line);
    Look look{&textOf(weight),
              weight,
              light      ? TextTone::OnDark
              : isFooter ? TextTone::Quiet
                         : TextTone::Ink,
              light ? TextTone::OnDark : TextTone::Quiet,
              groupBackground(frame, line, row.line),
              row.y,
              row.height,
              groupInk(frame, line)};
    if (!frame.lines->groupText()->styles().isEmpty())
        look.styleOf = [&](std::optional<std::size_t> summary) { return groupStyle(frame, line, summary); };
    paintPlaced(painter, frame, look, clip);
    if (!isFooter)
        drawChevron(painter, chevronRect(frame, node.level, row.y, row.height), frame.grouped->isOpen(line.group),
                    light             ? frame.tokens.onTeal
                    : node.level == 0 ? frame.tokens.ink
                                      : frame.tokens.ink2);
    const QRectF captionRoom(captionX_, row.y, captionWidth_ + 1, row.height - 1);
    const bool hasError = isError(frame.grouped->tree().keyState(node));
    const CellLook own = styled(frame, look, std::nullopt);
    if (own.isPlain() || hasError)
        look.text->add(caption_, captionRoom, GlyphText::Align::Left, hasError ? TextTone::Error : look.tone);
    else
        paintStyledText(painter, own, caption_, captionRoom, GlyphText::Align::Left);
    if (!count_.empty())
        plain_.add(count_, QRectF(captionX_ + captionWidth_, row.y, countWidth_ + 1, row.height - 1),
                   GlyphText::Align::Left, look.quiet);
    flush(painter, frame);
    if (frame.hasFocus && frame.selection.current() && frame.selection.current()->line == row.line && !isFooter) {
        painter.setPen(QPen(frame.tokens.teal, 1));
        painter.setBrush(Qt::NoBrush);
        const int right = std::min(frame.body.viewport().width(), frame.body.columns().contentWidth()) - 1;
        painter.drawRect(QRect(0, row.y, right, row.height - 2));
        painter.drawRect(QRect(1, row.y + 1, right - 2, row.height - 4));
    }
}

void GroupPainter::paintTotals(QPainter& painter, const GridFrame& frame, const QRect& clip) {
    if (frame.totals.empty()) return;
    const Tokens& t = frame.tokens;
    const int top = frame.totals.front().y;
    const int bottom = frame.totals.back().y + frame.totals.back().height;
    const QRect band = clip & QRect(0, top - 2, frame.body.viewport().width(), bottom - top + 2);
    if (band.isEmpty()) return;
    painter.setClipRect(band);
    painter.fillRect(band, totalBackground(frame));
    painter.fillRect(0, top - 2, frame.body.viewport().width(), 2, t.ink);
    const bool light = totalWantsLightText(frame);
    const LineStyleReader* styles =
        frame.lines && frame.lines->groupText() ? &frame.lines->groupText()->styles() : nullptr;
    for (const TotalRow& row : frame.totals) {
        Look look{&textOf(totalWeight(frame)),
                  totalWeight(frame),
                  light ? TextTone::OnDark : TextTone::Ink,
                  light ? TextTone::OnDark : TextTone::Quiet,
                  totalBackground(frame),
                  row.y,
                  row.height,
                  totalInk(frame)};
        if (styles && !styles->isEmpty())
            look.styleOf = [&](std::optional<std::size_t> summary) { return totalStyle(frame, row, summary); };
        const CellLook own = styled(frame, look, std::nullopt);
        if (own.background.isValid()) {
            look.behind = own.background;
            painter.fillRect(QRect(0, row.y, frame.body.viewport().width(), row.height) & band, own.background);
        }
        if (row.y > top) painter.fillRect(0, row.y - 1, frame.body.viewport().width(), 1, t.hair);
        placeTotals(frame, row);
        paintPlaced(painter, frame, look, band);
        const QRectF captionRoom(captionX_, row.y, captionWidth_ + 1, row.height - 1);
        if (own.isPlain())
            look.text->add(caption_, captionRoom, GlyphText::Align::Left, look.tone);
        else
            paintStyledText(painter, own, caption_, captionRoom, GlyphText::Align::Left);
        if (!count_.empty())
            plain_.add(count_, QRectF(captionX_ + captionWidth_, row.y, countWidth_ + 1, row.height - 1),
                       GlyphText::Align::Left, look.quiet);
        flush(painter, frame);
    }
}

}  // namespace jollyrow
