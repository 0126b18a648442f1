// SPDX-License-Identifier: MIT
#pragma once
// Writes the lines of a snapshot as text for people, CSV (RFC 4180) or one JSON object a line.

#include <functional>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/cancel.h"
#include "core/base/result.h"
#include "core/design/plan.h"
#include "core/rows/group_stage.h"
#include "core/rows/snapshot.h"

namespace jollyrow {

enum class RowFormat {
    Text,   ///< padded columns, display form
    Csv,    ///< plain form, heading line, CRLF
    Jsonl,  ///< {"kind":"record","values":{…}}: decimals as strings, ISO dates, null when empty
};
std::optional<RowFormat> rowFormatFromName(std::string_view name);

struct RowWriting {
    RowFormat format = RowFormat::Text;
    std::int64_t limit = -1;  ///< -1 = all
    /// Whose banner rows are written as headings: Text has the caption alone, JSON lines a "banner" besides the values,
    /// CSV has records only. Null: all are records.
    const ViewPlan* plan = nullptr;
};

/// Sends pieces of output to `sink`; stops with its error when it fails (a full disk, a closed pipe).
Result<void> writeRows(const Snapshot& snapshot, const std::vector<PlannedColumn>& columns, const RowWriting& writing,
                       const std::function<Result<void>(std::string_view)>& sink, const Cancel& cancel);

/// Groups with their summaries, each followed by the groups or records in it, then the totals:
/// {"kind":"group","level":0,"keys":["Done"],"count":12,"summaries":{"hours":"214.50"}}, {"kind":"total",…}. A key or
/// summary that failed is {"error":"division by zero"}. CSV has a line for each innermost group, without groups one for
/// all, and no records. `writing.limit` counts records only. `terms` are those that `grouped` was made with.
Result<void> writeGroups(const Snapshot& snapshot, const GroupedRows& grouped, const std::vector<std::string>& keyNames,
                         const std::vector<SummaryRule>& terms, const std::vector<PlannedColumn>& columns,
                         const RowWriting& writing, const std::function<Result<void>(std::string_view)>& sink,
                         const Cancel& cancel);

}  // namespace jollyrow
