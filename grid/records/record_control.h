// SPDX-License-Identifier: MIT
#pragma once
// RecordControl: records as wholes in the grid: made, doubled, deleted, left, saved, put back and decided after a
// conflict, by keys, menus and calls. What a person must be told stands beneath the record.

#include <QPointer>

#include <functional>
#include <optional>

#include "grid/editors/editor_host.h"
#include "grid/records/conflict_card.h"
#include "grid/records/paste_card.h"
#include "grid/select/block_edit.h"

namespace jollyrow {

class RecordControl final {
  public:
    struct Parts {
        GridContext& context;
        ShownRows& rows;
        BodyGeometry& body;
        Scroller& scroller;
        Cursor& cursor;
        EditorHost& editors;
    };
    /// `choose` makes a cell current.
    RecordControl(const Parts& parts, std::function<void(CellPlace)> choose) : p_(parts), choose_(std::move(choose)) {}

    /// True when the current record may be left for another: then it is saved as the design says. Else what is wrong
    /// with it is said.
    bool mayLeave(SourceRow next);
    /// A new record; a cell of it is edited as soon as it is there: in this column, or in the first that can be.
    bool insert(int column = -1);
    /// Makes a record current as soon as the lines have it.
    void showWhenThere(SourceRow row);
    bool duplicate();
    /// Deletes the selected records; what else goes with them, and more than one, is asked before.
    bool remove();
    void remove(const std::vector<SourceRow>& rows);
    /// Puts the current record back as it is stored; false when there is nothing to put back.
    bool revert();
    bool save();
    bool undo(bool forward);
    bool paste();
    bool clear();
    enum class Fill { Down, Series };
    bool fill(Fill how);
    /// Carries a change out as one step: at once when nothing is refused; else what cannot be written is shown, and the
    /// rest waits for a yes.
    /// Calls `done` with the number of cells once it is written.
    void carry(BlockChange change, const QString& label, const std::function<void(std::size_t)>& done = {});
    /// Opens what decides a conflict of the current record.
    bool decide();

    void snapshotArrived();
    void moveRows(const RowMoves& moves);
    bool canInsert() const;
    bool canDelete() const;

  private:
    std::optional<CellPlace> pastePlace() const;
    SourceRow current() const;
    void carryKnown(BlockChange change, const QString& label, const std::function<void(std::size_t)>& done);
    void ask(const std::vector<SourceRow>& rows, const std::vector<Dependents>& dependents, bool comesBack);
    void say(const QString& message, const std::vector<MessageStrip::Link>& links);
    bool show(const Result<SourceRow>& made);

    Parts p_;
    std::function<void(CellPlace)> choose_;
    static constexpr int kNotEdited = -2;
    int madeColumn_ = -1;            ///< where it is edited first; kNotEdited: it is only shown
    std::optional<SourceRow> made_;  ///< is shown and edited when the lines have it
    QPointer<ConflictCard> card_;
    QPointer<PasteCard> pasteCard_;
    QPointer<MessageStrip> strip_;
};

}  // namespace jollyrow
