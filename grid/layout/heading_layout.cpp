// SPDX-License-Identifier: MIT
#include "grid/layout/heading_layout.h"

namespace jollyrow {
namespace {
constexpr int kFoldPx = 16;

HeadingHit::Part sideOf(int x, const QRect& rect) {
    const int edge = std::min(rect.width() / 3, 28);
    if (x < rect.left() + edge) return HeadingHit::Part::LeftEdge;
    return x > rect.right() - edge ? HeadingHit::Part::RightEdge : HeadingHit::Part::Body;
}
}  // namespace

int HeadingLayout::height() const { return levelTop(plan_.tierLevels) + plan_.recordLines * leafHeight(); }

QRect HeadingLayout::columnRect(int column) const {
    const PlannedColumn& planned = plan_.columns[static_cast<std::size_t>(column)];
    const int leafTop = levelTop(plan_.tierLevels) + planned.line * leafHeight();
    const int top = planned.line == 0 ? levelTop(planned.levels) : leafTop;
    return {columns_.x(column, scrollX_), top, columns_.width(column), leafTop + leafHeight() - top};
}

QRect HeadingLayout::columnText(int column) const {
    QRect rect = columnRect(column);
    rect.setTop(rect.bottom() - leafHeight() + 1);
    return rect;
}

QRect HeadingLayout::tierRect(int tier) const {
    const PlannedTier& t = plan_.tiers[static_cast<std::size_t>(tier)];
    // Its columns on line 0: the first, and the last place it covers.
    const int firstPlace = columns_.place(t.first);
    int lastPlace = firstPlace;
    for (int i = t.end - 1; i >= t.first; --i)
        if (columns_.line(i) == 0) {
            lastPlace = columns_.place(i);
            break;
        }
    int left = columns_.placeX(firstPlace, scrollX_);
    int right = columns_.placeX(lastPlace, scrollX_) + columns_.placeWidth(lastPlace);
    // Scrolled ends disappear under the pinned columns; an end that is pinned stays where it is.
    const auto [from, to] = columns_.extent(Zone::Scrolled);
    if (columns_.zoneOfPlace(firstPlace) == Zone::Scrolled) left = std::max(left, from);
    if (columns_.zoneOfPlace(lastPlace) == Zone::Scrolled) right = std::min(right, to);
    if (columns_.zoneOfPlace(firstPlace) == Zone::Left) right = std::max(right, from);
    if (columns_.zoneOfPlace(lastPlace) == Zone::Right) left = std::min(left, to);
    // A tier that begins in the left zone ends at least where that zone's part of it does.
    if (columns_.zoneOfPlace(firstPlace) == Zone::Left && columns_.zoneOfPlace(lastPlace) == Zone::Left)
        right = columns_.placeX(lastPlace, scrollX_) + columns_.placeWidth(lastPlace);
    if (columns_.zoneOfPlace(firstPlace) == Zone::Right) left = columns_.placeX(firstPlace, scrollX_);
    if (right <= left) return {};
    return {left, levelTop(t.level), right - left, levelHeight(t.level)};
}

QRect HeadingLayout::foldRect(int tier) const {
    const QRect rect = tierRect(tier);
    if (rect.width() < 3 * kFoldPx) return {};
    return {rect.right() - kFoldPx - 3, rect.top(), kFoldPx, rect.height() - 3};
}

std::optional<HeadingHit> HeadingLayout::hitAt(QPoint position) const {
    if (position.y() < 0 || position.y() >= height()) return std::nullopt;
    const auto anchor = columns_.columnAt(position.x(), scrollX_);
    if (!anchor) return std::nullopt;
    for (int t = 0; t < static_cast<int>(plan_.tiers.size()); ++t) {
        const PlannedTier& tier = plan_.tiers[static_cast<std::size_t>(t)];
        if (*anchor < tier.first || *anchor >= tier.end) continue;
        const int top = levelTop(tier.level);
        if (position.y() < top || position.y() >= top + levelHeight(tier.level)) continue;
        const auto part = foldRect(t).contains(position) ? HeadingHit::Part::Fold : sideOf(position.x(), tierRect(t));
        return HeadingHit{std::nullopt, t, part};
    }
    const int leafTop = levelTop(plan_.tierLevels);
    const int line = position.y() < leafTop ? 0 : (position.y() - leafTop) / leafHeight();
    const auto column = columns_.columnAt(position.x(), scrollX_, line);
    const QRect rect = columnRect(*column);
    auto part = sideOf(position.x(), rect);
    const QRect text = columnText(*column);
    if (part == HeadingHit::Part::Body && position.y() >= text.bottom() - text.height() * 2 / 5)
        part = HeadingHit::Part::Lower;
    return HeadingHit{column, std::nullopt, part};
}

}  // namespace jollyrow
