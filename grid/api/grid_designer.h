// SPDX-License-Identifier: MIT
#pragma once
// GridDesigner: a grid that is being designed, as in the workbench: `grid.designer().setDesigning(true)`. A handle: a
// value, without a state of its own. Requires: the grid outlives it. Window's thread.

#include <QString>

#include <optional>
#include <string>
#include <vector>

namespace jollyrow {

class GridPrivate;

class GridDesigner final {
  public:
    explicit GridDesigner(GridPrivate& grid) : d_(&grid) {}

    /// While designing, dragging a heading also makes, joins and leaves tiers, and headings can be renamed in place.
    /// Default: off; form users then move columns within their tier.
    void setDesigning(bool designing);
    bool isDesigning() const;
    /// The columns and the tier whose settings are being worked on are tinted.
    void setTinted(const std::vector<QString>& fields, const std::optional<QString>& tier = std::nullopt);
    std::vector<QString> tinted() const;
    /// Columns that a click on their tier has selected.
    std::vector<std::string> selectedColumns() const;
    /// Fits every shown column to heading and all of its values, over the next turns of the event loop.
    void fitAll();
    /// A new heading over columns, to be named at once by the person at the grid.
    void makeTier(const std::vector<std::string>& fields);
    /// Opens the list in which columns are shown, hidden, ordered and found.
    void openColumnList();

  private:
    GridPrivate* d_;
};

}  // namespace jollyrow
