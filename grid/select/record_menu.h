// SPDX-License-Identifier: MIT
#pragma once
// RecordMenu: the menu of a record: copying, pinning, and what its current cell offers.

#include <functional>

#include "grid/inside/grid_context.h"
#include "grid/layout/shown_rows.h"
#include "grid/pictures/picture_control.h"
#include "grid/records/record_control.h"
#include "grid/select/clipboard.h"

namespace jollyrow {

class RecordMenu final {
  public:
    RecordMenu(GridContext& context, const ShownRows& rows, const Cursor& cursor, PictureControl& pictures,
               RecordControl& records, std::function<void(Headings)> copy)
        : context_(context),
          rows_(rows),
          cursor_(cursor),
          pictures_(pictures),
          records_(records),
          copy_(std::move(copy)) {}
    void open(std::int64_t line, const QPoint& global);

  private:
    using Key = std::vector<std::string>;
    /// nullopt: unpinned.
    void pin(const Key& key, std::optional<PinnedRecord::Edge> edge);

    GridContext& context_;
    const ShownRows& rows_;
    const Cursor& cursor_;
    PictureControl& pictures_;
    RecordControl& records_;
    std::function<void(Headings)> copy_;
};

}  // namespace jollyrow
