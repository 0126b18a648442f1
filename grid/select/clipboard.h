// SPDX-License-Identifier: MIT
#pragma once
// What copying takes: selected records or blocks of cells, as they are shown, in three forms at once: plain lines with
// tabs, CSV (RFC 4180) and an HTML table. A cell with tabs, quotes or line ends in it is quoted in the plain form, too,
// as pasting reads it: nothing is turned into blanks. A fourth form is for grids alone: the fields' own values as they
// are edited, without what faces, messages and formats put around them or leave out, and without headings.

#include <QString>

#include <memory>
#include <string>
#include <vector>

#include "core/design/plan.h"
#include "grid/layout/shown_rows.h"
#include "grid/select/selection.h"

class QMimeData;

namespace jollyrow {

struct Copied {
    static constexpr std::int64_t kMostRecords = 100'000;
    QString text, csv, html;
    QString own;  ///< lines with tabs of what is edited, which pasting prefers
    std::int64_t records = 0;
    std::int64_t leftOut = 0;  ///< records past the most that one copy takes
    bool isEmpty() const { return records == 0; }
    std::unique_ptr<QMimeData> mimeData() const;
};

/// What pasting into a grid reads: the fields' own values where a grid copied them, else the plain text.
QString textToPaste(const QMimeData& data);

enum class Headings { Without, With };

/// `only`: the fields of the columns that are copied; empty for all. O(records).
Copied copied(const Selection& selection, const ShownRows& rows, const Snapshot& snapshot, const ViewPlan& plan,
              const std::vector<std::string>& only, Headings headings);

}  // namespace jollyrow
