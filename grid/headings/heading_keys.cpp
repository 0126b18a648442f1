// SPDX-License-Identifier: MIT
// Headings by keys.
#include "grid/headings/heading_control.h"

namespace jollyrow {

void HeadingControl::setFocus(std::optional<HeadingHit> hit) {
    if (!hit && !focus_) return;
    focus_ = hit;
    if (hit && hit->column) scroller_.showColumn(*hit->column);
    context_.update();
    hooks_.announceFocus();
}

void HeadingControl::fit() {
    if (focus_ && ((focus_->column && *focus_->column >= body_.columns().count()) ||
                   (focus_->tier && *focus_->tier >= context_.tiers())))
        focus_.reset();
}

/// The heading on the next level up or down over the same column; nullopt past the last.
std::optional<HeadingHit> HeadingControl::above(const HeadingHit& from, int up) const {
    const int first = from.tier ? context_.plannedTier(*from.tier).first : *from.column;
    const int level = (from.tier ? context_.plannedTier(*from.tier).level : context_.planned(*from.column).levels) - up;
    for (int t = context_.tiers() - 1; level >= 0 && t >= 0; --t) {
        const PlannedTier& tier = context_.plannedTier(t);
        if (tier.level == level && tier.first <= first && first < tier.end) return HeadingHit{{}, t, {}};
    }
    if (level < 0 || (up < 0 && from.column)) return std::nullopt;
    return HeadingHit{first, {}, {}};
}

void HeadingControl::moveFocus(int across, int up) {
    HeadingHit next = *focus_;
    if (across != 0 && next.column) {
        next.column = std::clamp(*next.column + across, 0, body_.columns().count() - 1);
    } else if (across != 0) {
        // To the next tier of this level.
        const int to = *next.tier + across;
        if (to >= 0 && to < context_.tiers() &&
            context_.plannedTier(to).level == context_.plannedTier(*next.tier).level)
            next.tier = to;
    }
    if (up == 0) return setFocus(next);
    const auto found = above(next, up);
    if (found || (up < 0 && next.column)) setFocus(found);  // down from a column: to the records
}

/// What stands beside the column or tier on its level, as a whole; empty at the ends.
QRect HeadingControl::neighbourOf(const HeadingHit& hit, int step) const {
    const ColumnLayout& columns = body_.columns();
    const int first = hit.tier ? context_.plannedTier(*hit.tier).first : *hit.column;
    int end = hit.tier ? context_.plannedTier(*hit.tier).end : first + 1;
    while (end < columns.count() && columns.line(end) > 0) ++end;
    int neighbour = step < 0 ? first - 1 : end;
    while (neighbour >= 0 && neighbour < columns.count() && columns.line(neighbour) > 0) --neighbour;
    if (neighbour < 0 || neighbour >= columns.count()) return {};
    const std::string parent =
        hit.tier ? context_.plannedTier(*hit.tier).design.parent : context_.planned(first).design.tier;
    const int level = static_cast<int>(tierPath(context_.design(), parent).size());
    for (int t = 0; t < context_.tiers(); ++t) {
        const PlannedTier& tier = context_.plannedTier(t);
        if (tier.level <= level && tier.first <= neighbour && neighbour < tier.end &&
            (tier.first > first || tier.end <= first))
            return layout().tierRect(t);
    }
    return layout().columnRect(neighbour);
}

/// Moves the focused column or tier past its neighbour, as a drag would.
void HeadingControl::moveByKey(int step) {
    const HeadingHit hit = *focus_;
    const QRect rect = neighbourOf(hit, step);
    if (rect.isEmpty()) return;
    const DraggedHeading what = dragged(hit);
    const QPoint at(step < 0 ? rect.left() + 1 : rect.right() - 1, rect.center().y());
    Design design = context_.design();
    const HeadingLanding to = landingAt(design, context_.plan(), layout(), body_.columns(), what, at, arranging());
    const std::string field =
        context_.planned(hit.tier ? context_.plannedTier(*hit.tier).first : *hit.column).design.field;
    const QString label = carryOut(design, what, to);
    if (label.isEmpty()) return;
    context_.changeDesign(std::move(design), label);
    // The focus stays on what was moved.
    HeadingHit again;
    again.tier = context_.tierOf(what.tier);
    if (!again.tier) again.column = context_.columnOf(QString::fromStdString(field));
    if (again.tier || again.column) setFocus(again);
}

void HeadingControl::widen(int column, int step) {
    constexpr int kStepPx = 8;
    const int now = body_.columns().width(column);
    context_.changeColumn(context_.planned(column).design.field,
                          step > 0 ? Grid::tr("Widen %1") : Grid::tr("Narrow %1"), [&](ColumnDesign& c) {
                              c.width.mode = WidthMode::Fixed;
                              c.width.pixels =
                                  std::clamp(now + step * kStepPx, std::max(c.width.minimum, Width::kLeastPixels),
                                             Width::kMostPixels);
                          });
}

void HeadingControl::press(const HeadingHit& hit, int key, bool addKey) {
    if (hit.tier) return clickTier(*hit.tier, key == Qt::Key_Space ? HeadingHit::Part::Fold : HeadingHit::Part::Body);
    sortBy(*hit.column, addKey);
    Q_EMIT context_.grid().headingClicked(QString::fromStdString(context_.planned(*hit.column).design.field),
                                          Qt::NoModifier);
}

bool HeadingControl::key(const QKeyEvent& event) {
    const bool control = event.modifiers() & Qt::ControlModifier, alt = event.modifiers() & Qt::AltModifier;
    const HeadingHit hit = *focus_;
    const int step = event.key() == Qt::Key_Left ? -1 : event.key() == Qt::Key_Right ? 1 : 0;
    if (step != 0 && alt) return moveByKey(step), true;
    if (step != 0 && control && hit.column) return widen(*hit.column, step), true;
    switch (event.key()) {
        case Qt::Key_Left:
        case Qt::Key_Right: return moveFocus(step, 0), true;
        case Qt::Key_Up: return moveFocus(0, 1), true;
        case Qt::Key_Down: return moveFocus(0, -1), true;
        case Qt::Key_Escape: return setFocus(std::nullopt), true;
        case Qt::Key_Return:
        case Qt::Key_Enter:
        case Qt::Key_Space: return press(hit, event.key(), control), true;
        case Qt::Key_Delete:
            if (hit.column) hide(*hit.column);
            return true;
        case Qt::Key_F2:
            if (context_.isDesigning()) rename(hit);
            return true;
        case Qt::Key_Menu: {
            const QRect at = hit.tier ? layout().tierRect(*hit.tier) : layout().columnRect(*hit.column);
            return hooks_.openMenu(hit, context_.viewport().mapToGlobal(at.bottomLeft())), true;
        }
        default: return false;
    }
}

}  // namespace jollyrow
