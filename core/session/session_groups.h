// SPDX-License-Identifier: MIT
#pragma once
// SessionGroups: which groups of a session's view are open. A change shows at once; nobody moves but the lines beneath.
// Confined to the session's thread.

#include <cstdint>

#include "core/session/bound_records.h"
#include "core/session/edited_view.h"

namespace jollyrow {

class SessionGroups final {
  public:
    SessionGroups(BoundRecords& bound, EditedView& view) : bound_(bound), view_(view) {}
    /// Opens or closes one group of the snapshot. O(open groups).
    void setOpen(std::uint32_t node, bool open);
    /// All groups of a level, or of all levels.
    void setLevelOpen(int level, bool open);
    void setAllOpen(bool open);
    /// The groups around a record are opened; false when it is not shown at all. O(records).
    bool openAround(SourceRow row);
    const OpenGroups& open() const { return bound_.state.open; }

  private:
    void show(OpenGroups open);

    BoundRecords& bound_;
    EditedView& view_;
};

}  // namespace jollyrow
