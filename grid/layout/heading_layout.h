// SPDX-License-Identifier: MIT
#pragma once
// HeadingLayout: where the headings stand: a row for each level of tiers, then one for each line of the record. A tier
// over pinned and scrolled columns is one rectangle, from its first column to what can be seen of its last
// (docs/decisions/0005). Pure arithmetic over the column layout; cheap enough to be made for every event.

#include <QPoint>
#include <QRect>

#include <optional>

#include "core/design/plan.h"
#include "grid/layout/column_layout.h"

namespace jollyrow {

/// Heights of the rows of headings, in pixels.
struct HeadingHeights {
    int topTier = 22;
    int tier = 20;
    int leaf = 24;
    int alone = 34;  ///< a single row of headings
};

/// What is under a point of the headings.
struct HeadingHit {
    enum class Part {
        Body,
        LeftEdge,  ///< the outer third, where something dragged lands beside it
        RightEdge,
        Lower,  ///< of a column: the lower part of its middle, where something dragged lands beneath it
        Fold,   ///< of a tier: its fold mark
    };
    std::optional<int> column;  ///< of the plan
    std::optional<int> tier;    ///< index into plan.tiers
    Part part = Part::Body;
    bool operator==(const HeadingHit&) const = default;
};

class HeadingLayout final {
  public:
    /// Borrows plan and columns.
    HeadingLayout(const ViewPlan& plan, const ColumnLayout& columns, const HeadingHeights& heights, int scrollX)
        : plan_(plan), columns_(columns), heights_(heights), scrollX_(scrollX) {}

    int height() const;
    int levelTop(int level) const { return level == 0 ? 0 : heights_.topTier + (level - 1) * heights_.tier; }
    int levelHeight(int level) const { return level == 0 ? heights_.topTier : heights_.tier; }
    int leafHeight() const { return plan_.tierLevels == 0 && plan_.recordLines == 1 ? heights_.alone : heights_.leaf; }
    /// The whole cell of a column's heading, up to its tier; not clipped to its zone.
    QRect columnRect(int column) const;
    /// The line of the cell on which its words stand.
    QRect columnText(int column) const;
    /// What can be seen of a tier's heading; empty when nothing can.
    QRect tierRect(int tier) const;
    QRect foldRect(int tier) const;
    /// nullopt beside and below the headings.
    std::optional<HeadingHit> hitAt(QPoint position) const;

  private:
    const ViewPlan& plan_;
    const ColumnLayout& columns_;
    HeadingHeights heights_;
    int scrollX_;
};

}  // namespace jollyrow
