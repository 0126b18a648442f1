// SPDX-License-Identifier: MIT
#pragma once
// BlockEdit: changes of many cells at once: pasting, clearing, filling. Nothing is written here: what comes
// out is what would be, and what cannot be and why.

#include <QString>

#include <cstdint>
#include <map>
#include <string>
#include <utility>
#include <vector>

#include "core/session/session.h"
#include "grid/inside/grid_context.h"
#include "grid/layout/shown_rows.h"
#include "grid/select/selection.h"

namespace jollyrow {

/// A new record of a paste.
using NewRecord = std::vector<std::pair<FieldIndex, Value>>;

struct BlockChange {
    std::vector<CellWrite> cells;
    struct Origin {
        std::int64_t line = 0;
        QString text;
    };
    std::vector<Origin> origins;  ///< by cell
    std::vector<NewRecord> records;
    struct Refusal {
        std::int64_t line = 0;  ///< counted on past the last one for new records
        QString heading, text, why;
    };
    std::vector<Refusal> refused;
    /// A name in a look-up column: which record it stands for, the database is to be asked.
    struct Named {
        std::int64_t line = 0;
        SourceRow row = kNoRow;  ///< kNoRow: of the new record
        std::size_t record = 0;
        int column = 0;
        QString text;
    };
    std::vector<Named> named;
    std::size_t tooMany = 0;  ///< values that have no place: read-only columns, past the last column
    bool isEmpty() const { return cells.empty() && records.empty() && named.empty(); }
};

/// By column, what the names in it stand for, or why nobody can tell.
using NamedByColumn = std::map<int, Result<NamedRecords>>;

/// Lines of cells, as copying writes them: tabs between cells; a cell in double quotes may hold tabs, line ends and
/// doubled quotes (RFC 4180, with tabs for commas). O(length).
std::vector<std::vector<QString>> cellsOf(const QString& text);

class BlockEdit final {
  public:
    BlockEdit(const GridContext& context, const ShownRows& rows) : context_(context), rows_(rows) {}
    static constexpr std::size_t kMostCells = 1'000'000;

    /// `text` from a cell on; a single value goes into all selected cells. Records past the last line are made when
    /// `makesRecords`. Fails for more than kMostCells.
    Result<BlockChange> pasted(const QString& text, CellPlace from, const Selection& selection,
                               bool makesRecords) const;
    BlockChange cleared(const Selection& selection) const;
    /// The first selected record's values into those beneath it; of records, in the current column.
    BlockChange filledDown(const Selection& selection) const;
    /// `find` in what a column shows becomes `with`, whatever its case, in these records.
    BlockChange replaced(int column, const std::vector<SourceRow>& rows, const QString& find,
                         const QString& with) const;
    /// The change with its names taken for what they stand for, or refused.
    BlockChange resolved(BlockChange change, const NamedByColumn& names) const;
    /// Numbers and days go on by the step between the first two.
    BlockChange filledSeries(const Selection& selection) const;

  private:
    struct Target {
        std::int64_t line = 0;
        SourceRow row = kNoRow;
        int column = 0;
    };
    std::vector<std::vector<Target>> targetsOf(const Selection& selection) const;
    bool isName(int column, const QString& text) const;
    Result<Value> parsed(int column, const QString& text) const;
    void write(const Target& target, const QString& text, BlockChange& change) const;
    void set(const Target& target, const QString& text, Value value, std::string label, BlockChange& change) const;
    void refuse(std::int64_t line, int column, const QString& text, const QString& why, BlockChange& change) const;
    BlockChange checked(BlockChange change) const;
    void makeRecord(const std::vector<QString>& texts, int firstColumn, std::int64_t line, BlockChange& change) const;

    const GridContext& context_;
    const ShownRows& rows_;
};

}  // namespace jollyrow
