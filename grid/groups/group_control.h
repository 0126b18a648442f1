// SPDX-License-Identifier: MIT
#pragma once
// GroupControl: lines of groups: how high they are, opening and closing them, walking them by keys, and which figure
// stands at a point.

#include <QKeyEvent>

#include <functional>
#include <optional>

#include "grid/inside/scroller.h"
#include "grid/paint/painters.h"
#include "grid/select/cursor.h"

namespace jollyrow {

/// A figure of a group, or of all records when `node` is the number of groups.
struct FigureHit {
    std::size_t summary = 0;
    std::uint32_t node = 0;
    QRect rect;
};

class GroupControl final {
  public:
    struct Hooks {
        std::function<GridFrame()> frame;
        std::function<bool()> mayLeave;
        std::function<void(CellPlace, SelectHow)> choose;
        std::function<void()> announceFocus;
    };
    GroupControl(GridContext& context, const ShownRows& rows, const BodyGeometry& body, Scroller& scroller,
                 Cursor& cursor, const Painters& painters, Hooks hooks)
        : context_(context),
          rows_(rows),
          body_(body),
          scroller_(scroller),
          cursor_(cursor),
          painters_(painters),
          hooks_(std::move(hooks)) {}

    int lineHeight(int level, bool footer) const;
    /// Do lines of groups stand in other heights than records?
    bool hasOwnHeights() const;
    void toggle(std::int64_t line);
    /// Keys on a group's line, and the way from a record to its group. True when the key was taken.
    bool key(const QKeyEvent& event);
    /// The figure at a point: of a group's line, a footer or the totals.
    std::optional<FigureHit> figureAt(QPoint position) const;
    /// The figure that the keys ask about: of the current group's line, else of the totals: of the selected records
    /// where several are and the totals have them, of all of them for `all`. In the current column where there is one.
    std::optional<FigureHit> figureToExplain(bool all) const;
    /// Is the point on the mark that opens and closes the group on this line, or left of it?
    bool isOnMark(std::int64_t line, QPoint position) const;

  private:
    std::uint32_t nodeOf(TotalScope scope) const;
    bool keyOnGroup(const QKeyEvent& event, std::uint32_t group, CellPlace current);
    void goTo(std::optional<std::uint32_t> node, int column);

    GridContext& context_;
    const ShownRows& rows_;
    const BodyGeometry& body_;
    Scroller& scroller_;
    Cursor& cursor_;
    const Painters& painters_;
    Hooks hooks_;
};

}  // namespace jollyrow
