// SPDX-License-Identifier: MIT
#pragma once
// GridPlaces: where things stand in a grid's viewport, in its pixels; empty rectangles for what is not in sight:
// `grid.places().cell(12, "vessel")`. For cards of the application, status lines and tests. A handle: a value, without
// a state of its own. Requires: the grid outlives it. Window's thread.

#include <QRect>
#include <QString>

#include <cstdint>
#include <optional>

class QPaintDevice;

namespace jollyrow {

class GridPrivate;

class GridPlaces final {
  public:
    explicit GridPlaces(GridPrivate& grid) : d_(&grid) {}

    QRect heading(const QString& field) const;
    QRect tier(const QString& name) const;
    /// The mark on a tier that folds it.
    QRect fold(const QString& name) const;
    QRect cell(std::int64_t line, const QString& field) const;
    /// A figure on a group's line, or in the totals.
    QRect figure(const QString& summary, std::optional<std::int64_t> line = std::nullopt) const;
    /// A line, over the whole width; that of an open group at the top where it stays there.
    QRect line(std::int64_t line) const;
    /// The entry of a column in the filter row.
    QRect filter(const QString& field) const;
    /// Paints the visible part once into a paint device of the viewport's size; returns milliseconds. For bench.
    double paintOnce(QPaintDevice& device) const;

  private:
    GridPrivate* d_;
};

}  // namespace jollyrow
