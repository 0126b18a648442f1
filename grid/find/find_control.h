// SPDX-License-Identifier: MIT
#pragma once
// FindControl: the bar asks, the session searches on its worker, the painter marks the cells, and the current cell
// goes from one found record to the next.

#include <QPointer>

#include <functional>
#include <memory>

#include "grid/find/find_bar.h"
#include "grid/inside/grid_context.h"
#include "grid/layout/body_geometry.h"
#include "grid/select/block_edit.h"
#include "grid/select/cursor.h"

namespace jollyrow {

class FindControl final {
  public:
    /// Carries a change out, and tells how many cells were written.
    using Carry = std::function<void(BlockChange, const QString& label, std::function<void(std::size_t)> done)>;
    FindControl(GridContext& context, const ShownRows& rows, const BodyGeometry& body, const Cursor& cursor,
                std::function<void(CellPlace)> choose, Carry carry)
        : context_(context),
          rows_(rows),
          body_(body),
          cursor_(cursor),
          choose_(std::move(choose)),
          carry_(std::move(carry)) {}

    void open(const QString& text);
    /// With the entry that replaces what is found in the current column.
    void openReplacing();
    /// These records alone, as if they had been found; `what` says in the bar what they are. Closing the bar, or typing
    /// into it, ends it.
    void showFound(std::shared_ptr<const RecordSet> found, const QString& what);
    /// What the bar asks for, again: the records are others now.
    void findAgain();
    /// The next found record after the current one, round the end. False when nothing is being found.
    bool step(int by);
    /// What cells are marked by; null for none.
    const FindQuery* query() const { return query_.empty() ? nullptr : &query_; }
    /// A reload: what was found is of other rows.
    void forgetFound() { found_.reset(); }

  private:
    void close();
    void find(const QString& text);
    void show(SourceRow row);
    void showCount();
    void replace(const QString& with, bool all);
    void replaced(std::size_t cells);
    void carryReplacing(int column, const std::vector<SourceRow>& rows, const QString& find, const QString& with);

    GridContext& context_;
    const ShownRows& rows_;
    const BodyGeometry& body_;
    const Cursor& cursor_;
    std::function<void(CellPlace)> choose_;
    Carry carry_;
    QPointer<FindBar> bar_;
    FindQuery query_;
    std::shared_ptr<const RecordSet> found_;
};

}  // namespace jollyrow
