// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_face_layout.cpp (numbers) and tst_composed.cpp (pixels).
#include "grid/paint/axis_painter.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "grid/faces/composed_face.h"
#include "grid/faces/parts/bar_part.h"
#include "grid/paint/grouped.h"

namespace jollyrow {
namespace {

constexpr int kMajorTick = 5;
constexpr qreal kAir = 10;  // between figures

/// The bar that a column's cells are, and what it says of its ends.
struct Scale {
    PartContent content;
    QRectF area;
};

Scale scaleOf(const GridFrame& frame, int column, PartFonts& fonts) {
    const PlannedColumn& planned = frame.plan.columns[static_cast<std::size_t>(column)];
    Scale scale;
    if (const FaceReader* reader = frame.lines ? frame.lines->face(column) : nullptr) {
        scale.content.ends = reader->ends(0);
        scale.content.longest = reader->longest(0);
    }
    const QRect cell(frame.body.columns().x(column, frame.body.scrollX()), 0, frame.body.columns().width(column), 40);
    const CellText text;
    const FaceCell place{planned, text, cell};
    const PartLook look{planned.face->parts.front(), scale.content, fonts, frame.tokens};
    scale.area = BarPart::lengths(look, place.room());
    return scale;
}

/// As many figures as stand apart from each other and within the column.
std::vector<double> fitting(const Extent& ends, const QRectF& area, const GlyphText& glyphs) {
    for (int most = static_cast<int>(area.width() / 24) + 2; most > 1; --most) {
        std::vector<double> numbers = niceNumbers(ends, most);
        bool fits = true;
        qreal last = -1e9;
        for (const double number : numbers) {
            const qreal half = glyphs.width(axisText(number)) / 2, at = placeOf(number, ends, area);
            fits = fits && at - half >= last + kAir;
            last = at + half;
        }
        if (fits) return numbers;
    }
    return niceNumbers(ends, 1);
}

}  // namespace

std::vector<double> niceNumbers(const Extent& ends, int most) {
    if (!(ends.low < ends.high) || !std::isfinite(ends.high - ends.low)) return {};
    const double wanted = (ends.high - ends.low) / std::max(1, most - 1);
    const double power = std::pow(10.0, std::floor(std::log10(wanted)));
    for (const double digit : {1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0}) {
        const double step = digit * power;
        if (step < wanted * 0.999 && digit < 100) continue;
        std::vector<double> numbers;
        // Counted, not added up, so that 0 is 0 and the last is not lost to rounding.
        const auto first = static_cast<std::int64_t>(std::ceil(ends.low / step - 1e-9));
        const auto last = static_cast<std::int64_t>(std::floor(ends.high / step + 1e-9));
        for (std::int64_t i = first; i <= last; ++i) numbers.push_back(static_cast<double>(i) * step);
        if (static_cast<int>(numbers.size()) <= most && !numbers.empty()) return numbers;
    }
    return {std::clamp(0.0, ends.low, ends.high)};
}

std::string axisText(double number) {
    const bool isLongWhole = std::abs(number) >= 1000 && std::abs(number) < 1e15 && number == std::floor(number);
    std::string text = isLongWhole ? grouped(number).toStdString() : fmt::format("{:.6g}", number);
    if (text.starts_with("-")) text.replace(0, 1, "−");
    return text;
}

bool AxisPainter::has(const PlannedColumn& column) {
    if (!column.face || column.line > 0) return false;
    const FacePart& root = column.face->parts.front().design;
    return root.kind == FacePartKind::Bar && root.bar.axis;
}

int AxisPainter::height(const ViewPlan& plan) {
    const auto isStacked = [](const PlannedColumn& c) { return has(c) && c.face->parts.front().names.size() > 1; };
    if (std::none_of(plan.columns.begin(), plan.columns.end(), has)) return 0;
    return kHeight + (std::any_of(plan.columns.begin(), plan.columns.end(), isStacked) ? kLegend : 0);
}

/// What the colours of a stacked bar stand for, from the left on; names are cut where there is no room for them.
void AxisPainter::paintLegend(QPainter& painter, const PlannedPart& bar, const QRectF& room, GlyphText& glyphs,
                              const Tokens& t) {
    constexpr qreal kSwatch = 8, kGap = 4, kBetween = 10;
    const qreal each = room.width() / static_cast<qreal>(bar.names.size());
    qreal x = room.left(), spare = room.width();
    for (const std::string& name : bar.names) spare -= std::min(each, glyphs.width(name) + kSwatch + kGap + kBetween);
    for (std::size_t i = 0; i < bar.names.size(); ++i) {
        const qreal wanted = glyphs.width(bar.names[i]) + kSwatch + kGap + kBetween;
        const qreal given = std::min(wanted, each + std::max<qreal>(0, spare));
        spare -= std::max<qreal>(0, given - each);
        painter.fillRect(QRectF(x, room.center().y() - kSwatch / 2, kSwatch, kSwatch), stackedInk(i, t));
        glyphs.add(bar.names[i], QRectF(x + kSwatch + kGap, room.top(), given - kSwatch - kGap - 2, room.height()),
                   GlyphText::Align::Left, TextTone::Quiet);
        x += given;
    }
}

QRectF AxisPainter::lengths(const GridFrame& frame, int column, const QFont& font) {
    PartFonts fonts(font);
    return scaleOf(frame, column, fonts).area;
}

void AxisPainter::paint(QPainter& painter, const GridFrame& frame, int top, const QFont& font, const QRect& clip) {
    const Tokens& t = frame.tokens;
    const int high = height(frame.plan);
    const QRect band = clip & QRect(0, top, frame.body.viewport().width(), high);
    if (band.isEmpty()) return;
    painter.setClipRect(band);
    painter.fillRect(band, t.panel);
    painter.fillRect(0, top, frame.body.viewport().width(), 1, t.strongEdge);
    PartFonts fonts(font);
    GlyphText& glyphs = fonts.text(-3, LineWeight::Regular);
    for (const Zone zone : {Zone::Scrolled, Zone::Right, Zone::Left}) {
        const auto [from, to] = frame.body.columns().extent(zone);
        const QRect part = band & QRect(from, top, to - from, high);
        const ColumnRange range = frame.body.columns().visible(zone, frame.body.scrollX());
        if (part.isEmpty()) continue;
        painter.setClipRect(part);
        for (int column = range.begin; column < range.end; ++column) {
            const PlannedColumn& planned = frame.plan.columns[static_cast<std::size_t>(column)];
            if (!has(planned)) continue;
            const Scale scale = scaleOf(frame, column, fonts);
            const Extent& ends = scale.content.ends;
            const bool shares = planned.face->parts.front().design.bar.shares;
            if (scale.area.width() < 8) continue;
            painter.fillRect(QRectF(scale.area.left(), top + 1, scale.area.width() + 1, 1), t.ink3);
            for (const double number : fitting(ends, scale.area, glyphs)) {
                const qreal x = placeOf(number, ends, scale.area);
                painter.fillRect(QRectF(x, top + 1, 1, kMajorTick), t.ink3);
                const std::string text = shares ? axisText(std::round(number * 100)) + " %" : axisText(number);
                const qreal width = glyphs.width(text);
                // Whole within the column, the tick tells where it belongs.
                const int left = frame.body.columns().x(column, frame.body.scrollX());
                const qreal at =
                    std::clamp(x - width / 2, left + 2.0,
                               std::max(left + 2.0, left + frame.body.columns().width(column) - width - 2));
                glyphs.add(text, QRectF(at, top + kMajorTick, width + 1, kHeight - kMajorTick), GlyphText::Align::Left,
                           TextTone::Quiet);
            }
            if (planned.face->parts.front().names.size() > 1)
                paintLegend(painter, planned.face->parts.front(),
                            QRectF(scale.area.left(), top + kHeight - 2, scale.area.width(), kLegend), glyphs, t);
            glyphs.flush(painter, {t.ink, t.ink2, t.buoyText, t.onTeal});
        }
    }
}

}  // namespace jollyrow
