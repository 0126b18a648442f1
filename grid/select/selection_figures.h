// SPDX-License-Identifier: MIT
#pragma once
// SelectionFigures: what the selected cells come to, worked out beside the window a moment after the selection has come
// to rest, and said in words for a status line.

#include <QTimer>

#include "core/rows/cell_figures.h"
#include "grid/inside/grid_context.h"
#include "grid/layout/shown_rows.h"
#include "grid/select/cursor.h"

namespace jollyrow {

class SelectionFigures final {
  public:
    SelectionFigures(GridContext& context, const ShownRows& rows, const Cursor& cursor);
    /// The selection, or what stands in its cells, is another.
    void refresh() { timer_.start(); }
    /// Empty when less than two cells are selected.
    const QString& words() const { return words_; }

  private:
    void ask();
    bool isTooMuch() const;
    void say(const QString& words);
    std::vector<CellBlock> blocks() const;
    QString wordsOf(const CellFigures& figures, const Formatter* formatter) const;

    GridContext& context_;
    const ShownRows& rows_;
    const Cursor& cursor_;
    QTimer timer_;
    QString words_;
};

}  // namespace jollyrow
