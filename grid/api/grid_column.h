// SPDX-License-Identifier: MIT
#pragma once
// GridColumn and GridTier: one column or header tier of a grid to be set from C++. Each setter has the name of the
// setting on the screen and in the design file, takes effect at once, and returns the handle, so that calls chain:
//
//   grid.column("due_on").setHeading("Due").setFormat("EEE d MMM").setWidth(83);
//   grid.tier("Cost").add("hours", "labour", "parts").setLook(TierLook::Band);
//
// Handles are values that name the column or tier; they hold no pointer into the design. Setters on a column or tier
// that there is not do nothing (isValid() tells). Requires: the grid outlives the handle. Window's thread.

#include <QString>

#include <functional>
#include <string>
#include <vector>

#include "core/base/result.h"
#include "core/design/design.h"

namespace jollyrow {

class Grid;

class GridColumn final {
  public:
    GridColumn(Grid& grid, std::string field) : grid_(&grid), field_(std::move(field)) {}
    bool isValid() const;
    /// A copy of all settings. Requires: isValid().
    ColumnDesign settings() const;

    GridColumn& setHeading(const QString& heading);
    GridColumn& setShown(bool shown);
    GridColumn& setHiddenFromUsers(bool hidden);
    GridColumn& setReadOnly(bool readOnly);
    GridColumn& setWrap(bool wrap);
    /// Equal neighbours show their value once.
    GridColumn& setMerge(bool merge);
    GridColumn& setAlignment(Alignment alignment);
    /// Pixels at 100 % scale.
    GridColumn& setWidth(int pixels);
    GridColumn& setWidth(const Width& width);
    /// Fits to heading and contents, sampled.
    GridColumn& fitWidth();
    /// A share of what is left: 2 is twice 1.
    GridColumn& setShare(double weight);
    /// A UTS #35 pattern or skeleton ("EEE d MMM", "#,##0.00", "::currency/EUR"), two words for yes and no
    /// ("paid;open"), or a message over several fields ("{vessel}, {hours} h"); "" for by type. A wrong one is said by
    /// checkFormat().
    GridColumn& setFormat(const QString& pattern);
    GridColumn& setFormat(const FormatSpec& format);
    GridColumn& setEmptyText(const QString& text);
    GridColumn& setPrefix(const QString& prefix);
    GridColumn& setSuffix(const QString& suffix);
    GridColumn& setHint(const QString& hint);
    GridColumn& setToolTip(const QString& toolTip);
    /// The field of the other table that a look-up shows; "" for the one found by itself.
    GridColumn& setLabel(const QString& field);
    /// Places it beneath another column, in a record of several lines; "" for a place of its own.
    GridColumn& setUnder(const QString& field);
    /// How many places wide it is beneath another.
    GridColumn& setSpan(int places);
    /// Moves it before another column, into that one's tier; "" for the end.
    GridColumn& moveBefore(const QString& field);

    /// What would be wrong with a pattern here, and where in it; nothing is changed.
    Result<void> checkFormat(const QString& pattern) const;

  private:
    GridColumn& change(const std::function<void(ColumnDesign&)>& change);
    Grid* grid_;
    std::string field_;
};

class GridTier final {
  public:
    GridTier(Grid& grid, std::string name) : grid_(&grid), name_(std::move(name)) {}
    bool isValid() const;
    /// Requires: isValid().
    TierDesign settings() const;
    /// Fields of all columns under it, in display order.
    std::vector<std::string> columns() const;

    /// Puts columns into the tier; the first ones bring a new tier to where they stand.
    GridTier& add(const std::vector<std::string>& fields);
    template <class... Fields>
    GridTier& add(std::string_view field, const Fields&... more) {
        return add(std::vector<std::string>{std::string(field), std::string(more)...});
    }
    /// Puts another tier, with all under it, into this one.
    GridTier& addTier(const QString& tier);
    GridTier& setHeading(const QString& heading);
    GridTier& setAlignment(Alignment alignment);
    GridTier& setLook(TierLook look);
    /// "#rrggbb", or "" for the theme's.
    GridTier& setColour(const QString& colour);
    GridTier& setToolTip(const QString& toolTip);
    GridTier& setFolded(bool folded);
    GridTier& setLead(const QString& field);
    /// Takes the heading away; its columns stay.
    void dissolve();

  private:
    GridTier& change(const std::function<void(Design&)>& change);
    Grid* grid_;
    std::string name_;
};

}  // namespace jollyrow
