// SPDX-License-Identifier: MIT
#pragma once
// The tree of header tiers over a design's columns, and the operations on it. In the design the tree is kept flat: each
// column names its tier, each tier its parent, and `columns` is the order of the leaves; these functions keep what must
// hold: no tier in itself, columns of a tier side by side, columns beneath another right behind it.

#include <string>
#include <string_view>
#include <vector>

#include "core/design/design.h"
#include "core/design/finding.h"

namespace jollyrow {

/// Brings a design from a file or an application into order and says what was not: doubled, unknown, circular, too deep
/// or empty tiers; columns of one tier apart; columns beneath nothing. Requires: fields are unique. O(n * depth).
std::vector<Finding> settleTiers(Design& design);

/// Names of the tiers over a column or tier, the outermost first. O(depth).
std::vector<std::string> tierPath(const Design& design, std::string_view tier);
/// Fields of all columns under a tier, in display order, hidden ones included.
std::vector<std::string> fieldsUnder(const Design& design, std::string_view tier);

/// Where something is put: into a tier ("" = top level), before the child that holds a field ("" = behind the last).
struct Landing {
    std::string tier;
    std::string before;
    bool operator==(const Landing&) const = default;
};

/// Puts columns side by side, in the order given; each takes what stands beneath it along, and stops standing beneath
/// another itself. Tiers left without columns go. Fields that there are not are passed over.
void moveColumns(Design& design, const std::vector<std::string>& fields, const Landing& to);
/// Moves a tier with all under it; nothing happens when it would land in itself.
void moveTier(Design& design, std::string_view name, const Landing& to);
/// A new tier around the columns and tiers named by `fields` (all columns of a tier stand for the tier), where the
/// first of them stands. Returns its name, made from the heading; "" when there is no such field.
std::string makeTier(Design& design, const std::vector<std::string>& fields, std::string_view heading);
/// Gives a tier another name, wherever the design says it; nothing happens when there is one of that name.
void renameTier(Design& design, std::string_view from, std::string_view to);
/// Takes columns out of the design; what stands beneath them gets places of its own.
void removeColumns(Design& design, const std::vector<std::string>& fields);
/// Takes a tier away; what stood in it stands in its parent.
void dissolveTier(Design& design, std::string_view name);
/// Puts a column beneath another, as the last of those there; "" takes it out again, behind the one it was beneath.
void putUnder(Design& design, std::string_view field, std::string_view anchor);
/// Shows or hides all columns under a tier.
void showTier(Design& design, std::string_view name, bool shown);

/// A tier of a design, to work on in C++; made by Design::tier(). Borrows the design.
class TierEdit final {
  public:
    TierEdit(Design& design, std::string name) : design_(design), name_(std::move(name)) {}
    /// Puts columns into the tier, behind those that are there.
    TierEdit& add(const std::vector<std::string>& fields);
    template <class... Fields>
    TierEdit& add(std::string_view field, const Fields&... more) {
        return add(std::vector<std::string>{std::string(field), std::string(more)...});
    }
    /// Puts another tier, with all under it, into this one.
    TierEdit& addTier(std::string_view tier);
    TierEdit& setHeading(std::string_view heading);
    TierEdit& setAlignment(Alignment alignment);
    TierEdit& setLook(TierLook look);
    TierEdit& setColour(std::string_view colour);
    TierEdit& setToolTip(std::string_view toolTip);
    TierEdit& setFolded(bool folded);
    TierEdit& setLead(std::string_view field);

  private:
    TierDesign& tier() { return *design_.findTier(name_); }
    Design& design_;
    std::string name_;
};

}  // namespace jollyrow
