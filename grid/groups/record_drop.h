// SPDX-License-Identifier: MIT
#pragma once
// RecordDrop: records dragged on a group get what makes them its records.

#include <functional>
#include <optional>
#include <utility>
#include <vector>

#include "grid/inside/grid_context.h"
#include "grid/layout/body_geometry.h"
#include "grid/select/cursor.h"

namespace jollyrow {

class RecordDrop final {
  public:
    /// `write` saves values in records of the snapshot.
    RecordDrop(GridContext& context, const ShownRows& rows, const BodyGeometry& body, Cursor& cursor,
               std::function<void(std::vector<CellWrite>)> write)
        : context_(context), rows_(rows), body_(body), cursor_(cursor), write_(std::move(write)) {}

    /// The group that is dropped on, as painted.
    std::optional<std::uint32_t> over() const { return over_; }
    /// The selected records are held over a point. True when they can be dropped there.
    bool holdOver(QPoint position);
    void forget() { over_.reset(); }
    /// Lets them go where they are held.
    void drop();
    /// As if they were dropped on the group before (-1) or behind (1) that of the current record. False: no groups.
    bool moveBy(int step);

  private:
    using Values = std::vector<std::pair<FieldIndex, Value>>;
    std::optional<std::uint32_t> groupAt(QPoint position) const;
    std::vector<SourceRow> records() const;
    Result<Values> valuesOf(std::uint32_t node, const std::vector<SourceRow>& records) const;
    Result<std::pair<FieldIndex, Value>> valueOfLevel(const GroupNode& node) const;
    void say(const QString& message) const;

    GridContext& context_;
    const ShownRows& rows_;
    const BodyGeometry& body_;
    Cursor& cursor_;
    std::function<void(std::vector<CellWrite>)> write_;
    std::optional<std::uint32_t> over_;
};

}  // namespace jollyrow
