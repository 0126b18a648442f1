// SPDX-License-Identifier: MIT
#include "grid/paint/cell_looks.h"

#include "grid/faces/parts/part_face.h"
#include "grid/paint/contrast.h"

namespace jollyrow {
namespace {

QColor mixed(const QColor& a, const QColor& b, double part) {
    const auto between = [part](int from, int to) { return static_cast<int>(from + part * (to - from) + 0.5); };
    return {between(a.red(), b.red()), between(a.green(), b.green()), between(a.blue(), b.blue())};
}

}  // namespace

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
    return mixed(styleBackground(style.lowest, t), styleBackground(style.highest, t), part);
}

CellLook cellLook(const GridFrame& frame, CellPlace place) {
    CellLook look;
    if (frame.plan.styles.empty()) return look;
    const auto line = static_cast<ViewLine>(place.line);
    const CellStyle style = frame.lines->style(line, place.column);
    if (style.isPlain()) return look;
    const Tokens& t = frame.tokens;
    const bool isSelected = frame.selection.isRowSelected(frame.lines->rowAt(line));
    if (style.background && !isSelected)
        look.background = style.background->lowest.empty() ? styleBackground(style.background->background, t)
                                                           : scaleBackground(*style.background, style.part, t);
    const QColor behind = look.background.isValid() ? look.background : isSelected ? t.tealPale : t.paper;
    look.ink = legible(style.ink ? textInk(style.ink->ink, t, t.ink) : t.ink, behind);
    look.weight = style.weight;
    look.strike = style.strike;
    look.isStyled = true;
    return look;
}

}  // namespace jollyrow
