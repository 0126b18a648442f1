// SPDX-License-Identifier: MIT
#pragma once
// RecordMenu: the menu of a record: copying and pinning.

#include <functional>

#include "grid/inside/grid_context.h"
#include "grid/layout/shown_rows.h"

namespace jollyrow {

class RecordMenu final {
  public:
    RecordMenu(GridContext& context, const ShownRows& rows, std::function<void()> copy)
        : context_(context), rows_(rows), copy_(std::move(copy)) {}
    void open(std::int64_t line, const QPoint& global);

  private:
    using Key = std::vector<std::string>;
    /// nullopt: unpinned.
    void pin(const Key& key, std::optional<PinnedRecord::Edge> edge);

    GridContext& context_;
    const ShownRows& rows_;
    std::function<void()> copy_;
};

}  // namespace jollyrow
