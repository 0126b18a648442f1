// SPDX-License-Identifier: MIT
#pragma once
// Selection: which records or cells are chosen, and which one is current. Pure: lines, columns and rows in, no widget.
// Records are kept by source row, so they survive a sort; blocks of cells by line, so they do not.

#include <bit>
#include <cstdint>
#include <functional>
#include <optional>
#include <vector>

#include "core/base/indexes.h"
#include "core/design/design.h"

namespace jollyrow {

/// A set of records as bits; a million take 125 kB.
class RowSet final {
  public:
    void add(SourceRow row);
    void remove(SourceRow row);
    void clear();
    bool contains(SourceRow row) const;
    std::int64_t count() const { return count_; }
    /// Calls visit for each, in rising order. O(records).
    template <class Visit>
    void forEach(const Visit& visit) const {
        for (std::size_t word = 0; word < bits_.size(); ++word)
            for (std::uint64_t left = bits_[word]; left != 0; left &= left - 1)
                visit(static_cast<SourceRow>(word * 64 + static_cast<std::size_t>(std::countr_zero(left))));
    }
    /// In rising order, at most `most`.
    std::vector<SourceRow> rows(std::size_t most) const;

  private:
    std::vector<std::uint64_t> bits_;
    std::int64_t count_ = 0;
};

struct CellPlace {
    std::int64_t line = 0;
    int column = 0;
    bool operator==(const CellPlace&) const = default;
};

/// How a click or key changes the selection.
enum class SelectHow {
    Replace,
    Toggle,    ///< Ctrl
    Extend,    ///< Shift: from the anchor to here
    MoveOnly,  ///< Ctrl with keys: only the current cell moves
};

class Selection final {
  public:
    /// The records that selecting a line selects: one, or those of a group.
    using RowsAt = std::function<void(std::int64_t line, const std::function<void(SourceRow)>& take)>;

    void setMode(SelectionMode mode);
    SelectionMode mode() const { return mode_; }
    /// The cell that keys act on.
    std::optional<CellPlace> current() const { return current_; }
    void select(CellPlace place, SelectHow how, const RowsAt& rowsAt);
    /// All records shown, whatever groups are open: `records` hands each over.
    void selectAll(std::int64_t lines, int columns,
                   const std::function<void(const std::function<void(SourceRow)>&)>& records);
    void clear();
    /// After the lines were put in another order: the current record's new line; cell blocks collapse to it.
    void moveCurrentTo(std::optional<std::int64_t> line);
    /// After columns were moved or hidden: where the current cell's column is now.
    void moveCurrentToColumn(int column) {
        if (current_) current_->column = column;
    }
    /// Keeps the current cell inside.
    void clampTo(std::int64_t lines, int columns);
    /// After a reload: the rows that the selected records have now; those that are gone leave. O(records).
    void moveRows(const std::function<std::optional<SourceRow>(SourceRow)>& now);
    /// A record that is no more.
    void drop(SourceRow row) {
        rows_.remove(row);
        kept_.remove(row);
    }

    /// Blocks of cells are selected, whole columns among them, and no records.
    bool isOfCells() const { return mode_ == SelectionMode::Cells || mode_ == SelectionMode::Columns; }
    /// The cell that alone is selected; Cells mode only.
    std::optional<CellPlace> onlyCell() const {
        if (mode_ != SelectionMode::Cells || blocks_.size() != 1) return std::nullopt;
        const Block& block = blocks_.front();
        if (block.endLine - block.firstLine != 1 || block.endColumn - block.firstColumn != 1) return std::nullopt;
        return CellPlace{block.firstLine, block.firstColumn};
    }
    bool isRowSelected(SourceRow row) const { return !isOfCells() && rows_.contains(row); }
    bool isCellSelected(CellPlace place) const;
    const RowSet& rows() const { return rows_; }
    /// Half-open in lines and columns; where cells are selected only.
    struct Block {
        std::int64_t firstLine = 0, endLine = 0;
        int firstColumn = 0, endColumn = 0;
    };
    const std::vector<Block>& blocks() const { return blocks_; }

  private:
    Block between(CellPlace a, CellPlace b) const;
    SelectionMode mode_ = SelectionMode::Rows;
    std::optional<CellPlace> current_, anchor_;
    RowSet rows_;
    RowSet kept_;  ///< what stands beside the range that Shift is drawing
    std::vector<Block> blocks_;
    std::int64_t lines_ = 0;  ///< that there are, which whole columns reach over
};

}  // namespace jollyrow
