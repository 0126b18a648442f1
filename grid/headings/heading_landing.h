// SPDX-License-Identifier: MIT
#pragma once
// HeadingLanding: what letting go of a dragged heading would do to the design, and how that is shown meanwhile. Pure.
//
// On a heading's edge it lands beside it, in the same tier; on the middle of another both come under a new heading; on
// the lower part it stands beneath it; on a tier's middle it joins the tier. Form users only move within a tier.

#include <QString>

#include <string>
#include <vector>

#include "core/design/tier_tree.h"
#include "grid/paint/heading_painter.h"

namespace jollyrow {

/// What is dragged: columns (one, or all that are selected) or a tier.
struct DraggedHeading {
    std::vector<std::string> fields;
    std::string tier;  ///< when not empty, instead of fields
};

struct HeadingLanding {
    enum class What { Nothing, Move, MakeTier, Beneath };
    What what = What::Nothing;
    Landing to;          ///< for Move
    std::string target;  ///< field, for MakeTier and Beneath
    LandingMark mark;
};

enum class Arranging {
    Design,    ///< everything
    UserOnly,  ///< order within a tier
};

HeadingLanding landingAt(const Design& design, const ViewPlan& plan, const HeadingLayout& layout,
                         const ColumnLayout& columns, const DraggedHeading& dragged, QPoint position,
                         Arranging arranging);

/// Does it, and names the step: "Move Due under Job". "" when there was nothing to do.
QString carryOut(Design& design, const DraggedHeading& dragged, const HeadingLanding& landing,
                 QString* madeTier = nullptr);

/// Headings for messages and undo lists.
QString headingOfField(const Design& design, const std::string& field);
QString headingOfTier(const Design& design, const std::string& tier);

}  // namespace jollyrow
