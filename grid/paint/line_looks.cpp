// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_grid_groups.cpp.
#include "grid/paint/line_looks.h"

#include <algorithm>
#include <cmath>

#include "grid/groups/group_text.h"
#include "grid/paint/cell_looks.h"
#include "grid/paint/contrast.h"
#include "grid/paint/grid_painter.h"

namespace jollyrow {
namespace {

/// Are all records of a group selected? Of large groups some thousands are asked.
bool isGroupSelected(const GridFrame& frame, const GroupNode& node) {
    constexpr std::int64_t kMostAsked = 4096;
    const RowOrder& order = *frame.grouped->tree().order;
    if (frame.selection.rows().count() < node.count) return false;
    const std::int64_t step = std::max<std::int64_t>(1, node.count / kMostAsked);
    for (std::int64_t n = node.first; n < node.first + node.count; n += step)
        if (!frame.selection.isRowSelected(static_cast<SourceRow>(order[static_cast<std::size_t>(n)]))) return false;
    return true;
}

/// A builder's colour is for light; in the dark it tints the theme's.
QColor built(const std::string& colour, const QColor& themes, bool dark) {
    if (colour.empty()) return themes;
    const QColor own(QString::fromStdString(colour));
    if (!dark) return own;
    return {(own.red() + 3 * themes.red()) / 4, (own.green() + 3 * themes.green()) / 4,
            (own.blue() + 3 * themes.blue()) / 4};
}

const GroupDesign* designOf(const GridFrame& frame, const Line& at) {
    const GroupText* groups = frame.lines ? frame.lines->groupText() : nullptr;
    const PlannedGroup* group = groups ? groups->groupOf(at) : nullptr;
    return group ? &group->design : nullptr;
}

/// Black and white text stand out alike from a background of this luminance.
constexpr double kAlikeToBoth = 0.179;

}  // namespace

CellStyle groupStyle(const GridFrame& frame, const Line& at, std::optional<std::size_t> summary) {
    const GroupText* groups = frame.lines ? frame.lines->groupText() : nullptr;
    return groups && !groups->styles().isEmpty() ? groups->styles().ofGroup(at.group, summary) : CellStyle{};
}

CellStyle totalStyle(const GridFrame& frame, const TotalRow& row, std::optional<std::size_t> summary) {
    const GroupText* groups = frame.lines ? frame.lines->groupText() : nullptr;
    if (!groups) return {};
    static const std::vector<EvaluatedCell> kShown;
    switch (row.scope) {
        case TotalScope::Filtered: return groups->styles().ofTotal(kShown, summary);
        case TotalScope::Selected:
            return frame.selectedFigures.empty() ? CellStyle{}
                                                 : groups->styles().ofTotal(frame.selectedFigures, summary);
        case TotalScope::All: return groups->styleOfAll(summary);
    }
    return {};
}

QColor groupBackground(const GridFrame& frame, const Line& at, std::int64_t line) {
    const Tokens& t = frame.tokens;
    const GroupNode& node = frame.grouped->tree().nodes[at.group];
    const GroupDesign* design = designOf(frame, at);
    const QColor styled = lookOf(groupStyle(frame, at, std::nullopt), t.page, t.ink, t).background;
    if (at.kind == LineKind::GroupFooter)
        return styled.isValid() ? styled : built(design ? design->footerColour : std::string(), t.page, t.dark);
    if (frame.dropOn == at.group) return t.brassPale;
    if (isGroupSelected(frame, node)) return t.tealPale;
    const QColor colour = styled.isValid() ? styled
                                           : built(design ? design->colour : std::string(),
                                                   node.level == 0   ? t.panel2
                                                   : node.level == 1 ? t.group2
                                                                     : t.page,
                                                   t.dark);
    if (!frame.hover || frame.hover->line != line) return colour;
    return t.dark ? colour.lighter(112) : colour.darker(103);
}

QColor totalBackground(const GridFrame& frame) {
    return built(frame.totalColour, frame.tokens.panel2, frame.tokens.dark);
}

LineWeight groupWeight(const GridFrame& frame, const Line& at) {
    const GroupDesign* design = designOf(frame, at);
    const bool isFooter = at.kind == LineKind::GroupFooter;
    const LineWeight own = design ? (isFooter ? design->footerWeight : design->weight) : LineWeight::Theme;
    if (own != LineWeight::Theme) return own;
    if (isFooter) return LineWeight::Regular;
    return frame.grouped->tree().nodes[at.group].level == 0 ? LineWeight::Bold : LineWeight::Medium;
}

LineWeight totalWeight(const GridFrame& frame) {
    return frame.totalWeight == LineWeight::Theme ? LineWeight::Bold : frame.totalWeight;
}

QColor groupInk(const GridFrame& frame, const Line& at) {
    const GroupDesign* design = designOf(frame, at);
    if (!design) return {};
    return QColor(
        QString::fromStdString(at.kind == LineKind::GroupFooter ? design->footerTextColour : design->textColour));
}

QColor totalInk(const GridFrame& frame) { return QColor(QString::fromStdString(frame.totalTextColour)); }

bool groupWantsLightText(const GridFrame& frame, const Line& at, std::int64_t line) {
    const GroupDesign* design = designOf(frame, at);
    const bool isFooter = at.kind == LineKind::GroupFooter;
    if (!design || frame.tokens.dark || (isFooter ? design->footerColour : design->colour).empty()) return false;
    return luminance(groupBackground(frame, at, line)) < kAlikeToBoth;
}

bool totalWantsLightText(const GridFrame& frame) {
    return !frame.tokens.dark && luminance(totalBackground(frame)) < kAlikeToBoth;
}

}  // namespace jollyrow
