// SPDX-License-Identifier: MIT
#pragma once
// PartPresses: the links and buttons of composed faces: which one is under the pointer, which a cell has, and telling
// the application that one was pressed. They open nothing by themselves.

#include <optional>
#include <vector>

#include "grid/inside/grid_context.h"
#include "grid/layout/body_geometry.h"
#include "grid/layout/shown_rows.h"

namespace jollyrow {

class PartPresses final {
  public:
    PartPresses(const GridContext& context, const ShownRows& rows, const BodyGeometry& body)
        : context_(context), rows_(rows), body_(body) {}

    /// The part of a composed cell at a point of the viewport; nullopt beside all.
    std::optional<std::size_t> partAt(CellPlace place, QPoint position) const;
    /// Presses what is there. False when it is no link or button.
    bool pressAt(CellPlace place, QPoint position) const;
    /// Presses the first link or button that the cell shows, for keys and assistive technology. False without one.
    bool pressFirst(CellPlace place) const;
    bool hasAny(CellPlace place) const { return first(place).has_value(); }

  private:
    std::optional<std::size_t> first(CellPlace place) const;
    bool press(CellPlace place, std::size_t part) const;
    void openAddress(CellPlace place, std::size_t part) const;
    bool isPressable(int column, std::size_t part) const;

    const GridContext& context_;
    const ShownRows& rows_;
    const BodyGeometry& body_;
};

}  // namespace jollyrow
