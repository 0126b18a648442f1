// SPDX-License-Identifier: MIT
#pragma once
// Rowline: the path of the rows, Source -> Filter -> Sort -> Group -> Summaries, as pure stages whose products are kept
// and recomputed from the first one whose input changed. Confined to the thread that calls run(), one at a time.

#include <memory>
#include <vector>

#include "core/base/cancel.h"
#include "core/base/result.h"
#include "core/columns/sort_key.h"
#include "core/rows/snapshot.h"

namespace jollyrow {

struct RowlineInput {
    std::shared_ptr<const Table> table;
    std::shared_ptr<const Edits> edits;
    std::vector<SortKey> sort;
    double loadMilliseconds = 0;
    std::uint64_t generation = 0;
};

class Rowline final {
  public:
    /// Fails only when cancelled or when a key has no order; the kept products stay as they were.
    Result<std::shared_ptr<const Snapshot>> run(const RowlineInput& input, const Cancel& cancel);

  private:
    /// A column with the edits of its field written in; the column itself when there are none.
    static std::shared_ptr<const Column> edited(const Table& table, const Edits* edits, FieldIndex field);

    RankCache ranks_;
    std::vector<SortKey> keptSort_;
    std::vector<std::uint64_t> keptColumns_;  ///< ids of the columns the kept order was made from
    std::shared_ptr<const Edits> keptEdits_;
    std::size_t keptRows_ = 0;
    std::shared_ptr<const RowOrder> keptOrder_;
    StageReport keptReport_;
};

}  // namespace jollyrow
