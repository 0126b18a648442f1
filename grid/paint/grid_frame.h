// SPDX-License-Identifier: MIT
#pragma once
// GridFrame: all that a picture of the grid depends on, put together for one painting. Painters are const over it.

#include <QString>

#include <algorithm>
#include <functional>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "core/design/find.h"
#include "core/design/plan.h"
#include "grid/groups/group_text.h"
#include "grid/layout/body_geometry.h"
#include "grid/layout/rows_view.h"
#include "grid/paint/tokens.h"
#include "grid/select/selection.h"

namespace jollyrow {

class PictureShelf;

/// One row of the totals at the foot of the grid, and where.
struct TotalRow {
    TotalScope scope = TotalScope::Filtered;
    QString caption;
    int y = 0;
    int height = 30;
};

/// Everything a frame depends on. Borrows; valid for the call.
struct GridFrame {
    const Tokens& tokens;
    const BodyGeometry& body;
    const RowsView* lines = nullptr;  ///< null before anything is bound
    const ViewPlan& plan;
    const Selection& selection;
    const std::vector<int>& decimalInsets;  ///< by column: room right of the decimal sign in Real columns
    bool stripes = true;
    bool hairlines = true;
    bool hasFocus = false;
    bool crossLight = true;
    std::optional<CellPlace> hover = std::nullopt;
    std::vector<int> designColumns = {};    ///< selected for design: tinted brass
    std::vector<int> selectedColumns = {};  ///< selected by the form's user
    std::vector<PinnedLine> pinnedTop = {}, pinnedBottom = {};
    const GroupedLines* grouped = nullptr;  ///< null without groups
    std::vector<PinnedLine> sticky = {};    ///< lines of open groups that stay at the top, outermost first
    std::vector<TotalRow> totals = {};
    std::optional<int> axisTop = std::nullopt;        ///< where the axis of bars begins; nullopt without one
    std::vector<EvaluatedCell> selectedFigures = {};  ///< of the selected records, by summary
    int groupIndent = 14;                             ///< pixels a level
    std::string totalTextColour = {};                 ///< empty: the theme's
    std::string totalColour = {};                     ///< behind totals; empty: the theme's
    LineWeight totalWeight = LineWeight::Theme;
    std::optional<std::uint32_t> dropOn = std::nullopt;  ///< a group that records are being dropped on
    std::function<double(SourceRow)> glow = {};  ///< from 0 to 1, of records that somebody else has changed just now
    const std::set<SourceRow>* outOfPlace = nullptr;  ///< records marked in the gutter; may be null
    const FindQuery* find = nullptr;                  ///< cells it marks are tinted; may be null
    PictureShelf* pictures = nullptr;                 ///< null: they are left out
    QString message = {};                             ///< shown when there are no lines

    bool isDesigned(int column) const {
        return std::find(designColumns.begin(), designColumns.end(), column) != designColumns.end();
    }
};

}  // namespace jollyrow
