// SPDX-License-Identifier: MIT
#pragma once
// PinnedLines: the lines on which the records stand that the design pins.

#include <memory>
#include <vector>

#include "core/session/session.h"

namespace jollyrow {

class PinnedLines final {
  public:
    /// O(records) for each pinned one, when snapshot or design have changed.
    void find(const Session& session);
    const std::vector<std::int64_t>& at(PinnedRecord::Edge edge) const {
        return edge == PinnedRecord::Edge::Top ? top_ : bottom_;
    }

  private:
    std::vector<std::int64_t> top_, bottom_;
    // What was looked for last; only compared.
    std::shared_ptr<const Snapshot> snapshot_;
    std::vector<PinnedRecord> records_;
};

}  // namespace jollyrow
