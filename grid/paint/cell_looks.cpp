// SPDX-License-Identifier: MIT
#include "grid/paint/cell_looks.h"

#include "grid/faces/parts/mark_part.h"
#include "grid/faces/parts/part_face.h"
#include "grid/paint/contrast.h"

namespace jollyrow {

QColor styleBackground(const std::string& name, const Tokens& t) {
    if (name.empty()) return {};
    if (name[0] == '#') {
        const QColor own(QString::fromStdString(name));
        return t.dark ? mixed(own, t.paper, 0.7) : own;
    }
    return name == "teal"    ? t.tealPale
           : name == "buoy"  ? t.buoyPale
           : name == "brass" ? t.brassPale
           : name == "blue"  ? t.bluePale
           : name == "quiet" ? t.panel
                             : t.panel2;
}

QColor scaleBackground(const StyleDesign& style, double part, const Tokens& t) {
    const QColor low = styleBackground(style.lowest, t), high = styleBackground(style.highest, t);
    if (style.middle.empty()) return mixed(low, high, part);
    const QColor middle = styleBackground(style.middle, t);
    return part < 0.5 ? mixed(low, middle, part * 2) : mixed(middle, high, part * 2 - 1);
}

CellLook lookOf(const CellStyle& style, const QColor& behind, const QColor& ink, const Tokens& t) {
    CellLook look;
    if (style.isPlain()) return look;
    look.isStyled = true;
    if (style.background)
        look.background = style.background->lowest.empty() ? styleBackground(style.background->background, t)
                                                           : scaleBackground(*style.background, style.part, t);
    const QColor under = look.background.isValid() ? look.background : behind;
    look.ink = legible(style.ink ? textInk(style.ink->ink, t, ink) : ink, under);
    look.weight = style.weight;
    look.italic = style.italic;
    look.strike = style.strike;
    if (!style.icon) return look;
    look.icon = style.icon->shape;
    look.iconInk = legible(style.icon->colour.empty() ? look.ink : shapeInk(style.icon->colour, t, look.ink), under, 3);
    return look;
}

QRect paintIcon(QPainter& painter, const CellLook& look, const QRect& cell) {
    if (look.icon == MarkShape::None) return cell;
    constexpr int kSide = 11;
    const QPointF centre(cell.left() + measure::kCellPadding + kSide / 2.0, QRectF(cell).center().y() - 0.5);
    if (cell.width() > 2 * measure::kCellPadding + kSide)
        paintMark(painter, look.icon, centre, std::min(kSide, cell.height() - 4), look.iconInk,
                  look.background.isValid() ? look.background : QColor(Qt::white));
    return cell.adjusted(measure::kIconRoom, 0, 0, 0);
}

const CellLook& LookCache::of(const CellStyle& style, const QColor& behind, const Tokens& tokens) {
    for (const Kept& kept : kept_)
        if (kept.behind == behind.rgba() && kept.style == style) return kept.look;
    last_ = lookOf(style, behind, tokens.ink, tokens);
    if (kept_.size() < kMostKept) kept_.push_back({style, behind.rgba(), last_});
    return last_;
}

CellLook cellLook(const GridFrame& frame, CellPlace place, LookCache& cache) {
    if (frame.plan.styles.empty()) return {};
    const auto line = static_cast<ViewLine>(place.line);
    CellStyle style = frame.lines->style(line, place.column);
    if (style.isPlain()) return {};
    const bool isSelected = frame.selection.isRowSelected(frame.lines->rowAt(line));
    if (isSelected) style.background = nullptr;
    const Tokens& t = frame.tokens;
    CellLook look = cache.of(style, isSelected ? t.tealPale : t.paper, t);
    if (style.isPlain()) look.ink = t.ink, look.isStyled = true;  // its background alone
    return look;
}

}  // namespace jollyrow
