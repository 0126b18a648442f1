// SPDX-License-Identifier: MIT
#pragma once
// PlannedBanner: a banner met with a schema. BannerReader: which records of a snapshot are banners, and what they say.
// Immutable, and confined to one thread.

#include <memory>
#include <string>
#include <vector>

#include "core/design/cell_text.h"
#include "core/design/plan.h"

namespace jollyrow {

/// Those that can be had; others become findings. `columns` are the plan's, of which one is edited on the banner.
/// O(banners
/// * columns).
std::vector<PlannedBanner> plannedBanners(const Design& design, const TableSchema& schema, const Registered* registered,
                                          const std::vector<PlannedColumn>& columns, std::vector<Finding>& findings);
/// The names of fields that banners read.
std::vector<std::string> fieldNamesOf(const std::vector<BannerDesign>& banners);

class BannerReader final {
  public:
    /// Borrows the snapshot and the plan.
    BannerReader(const Snapshot& snapshot, const ViewPlan& plan);
    ~BannerReader();
    /// Null for a record that is none. O(banners).
    const PlannedBanner* of(SourceRow row) const;
    /// Appends what stands on it. Requires: it is one.
    void appendCaption(SourceRow row, const PlannedBanner& banner, std::string& out);

  private:
    const Snapshot& snapshot_;
    const ViewPlan& plan_;
    std::vector<std::unique_ptr<CellReader>> readers_;  ///< by banner, of its column; made when first asked for
    CellText cell_;
};

}  // namespace jollyrow
