// SPDX-License-Identifier: MIT
#pragma once
// ColumnFits: the widths that headings and values need. Sampled while one works; exactly on demand.

#include <cstdint>
#include <map>
#include <memory>
#include <string>
#include <vector>

#include "grid/paint/grid_painter.h"
#include "grid/paint/heading_painter.h"

namespace jollyrow {

/// What widths are measured on. Borrows; valid for the call.
struct FitInput {
    const Snapshot* snapshot = nullptr;  ///< null before anything is bound
    const ViewPlan& plan;
    const GroupText* groupText = nullptr;  ///< null without groups and figures
    const GridPainter& cells;
    const HeadingPainter& headings;
};

class ColumnFits final {
  public:
    /// Headings and a sample of the values; a screenful first while loading, all again when the table is whole. What
    /// has not changed since is not measured again.
    void measure(const FitInput& input);
    /// By column, pixels; 80 before it was measured.
    int width(int column) const;
    /// Room right of the decimal sign, by column.
    const std::vector<int>& decimalInsets() const { return decimalInsets_; }

    /// The width for all values of a column. O(values), with short cuts.
    int exact(const FitInput& input, int column) const;
    /// Takes an exact width instead of the sampled one, until heading, format or values are other ones.
    void keep(const FitInput& input, int column, int widthPx);
    /// Another font: nothing of before holds.
    void clear();

  private:
    struct Fit {
        std::shared_ptr<const Formatter> formatter;
        std::shared_ptr<const PlannedFace> face;
        std::string heading;
        std::size_t rows = 0;
        std::uint64_t data = 0;  ///< of the column measured
        int widthPx = 80;
        int decimalInset = 0;
        bool hasIcons = false;
        std::weak_ptr<const void> grouping = {};  ///< whose figures were measured; only compared
        std::size_t figureRows = 0;
        int figuresPx = 0;
    };
    bool isMeasured(const FitInput& input) const;
    void measureFigures(const FitInput& input, int column, Fit& fit) const;
    void measureSample(const FitInput& input, const PlannedColumn& column, std::int64_t sample, Fit& fit) const;

    std::map<std::string, Fit> known_;  ///< by field; a change of design measures what it changed
    std::vector<int> widths_;           ///< by plan column, pixels
    std::vector<int> decimalInsets_;
    // What was measured last; only compared.
    const ViewPlan* plan_ = nullptr;
    std::weak_ptr<const void> grouping_;
    std::size_t rows_ = 0;
    std::weak_ptr<const Table> table_;
};

}  // namespace jollyrow
