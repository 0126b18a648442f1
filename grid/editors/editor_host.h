// SPDX-License-Identifier: MIT
#pragma once
// EditorHost: the one editor that is open: where it stands, on which record it is whatever is sorted or reloaded
// meanwhile, where its value goes, and what is said when a value is refused here or by the database.

#include <QPointer>

#include <functional>

#include "grid/editors/editor.h"
#include "grid/editors/message_strip.h"
#include "grid/inside/scroller.h"
#include "grid/select/cursor.h"

namespace jollyrow {

class EditorHost final {
  public:
    /// `moveOn` moves the current cell after a commit.
    EditorHost(GridContext& context, ShownRows& rows, BodyGeometry& body, Scroller& scroller, Cursor& cursor,
               std::function<void(int lines, int columns)> moveOn)
        : context_(context),
          rows_(rows),
          body_(body),
          scroller_(scroller),
          cursor_(cursor),
          moveOn_(std::move(moveOn)) {}

    bool isOpen() const { return editor_; }
    Editor* editor() const { return editor_; }
    /// Opens on the current cell with its value, or with what was `typed` on it. False when it cannot be edited so.
    bool begin(const QString& typed);
    /// False when what stands in it was refused and the editor stays.
    bool commit();
    /// True when no editor is in the way, after committing what stands in one.
    bool mayLeave() { return !editor_ || commit(); }
    void end();
    /// What opens in an editor's place on binary data.
    void setForPictures(std::function<bool(CellPlace)> open) { openPicture_ = std::move(open); }
    /// What decides a conflict of the current record.
    void setForConflicts(std::function<void()> decide) { decide_ = std::move(decide); }
    /// Puts the editor where its cell is now, after scrolling or a layout.
    void place();
    /// After other records have come: to its record's line and column; what was typed is said when they are gone.
    void follow();
    /// A reload: to its record's new row.
    void moveRows(const RowMoves& moves);
    /// Turns the yes or no of a cell over.
    void toggle(CellPlace place);
    /// Writes a value as if it had been typed, and keeps the record in sight. Requires: of the snapshot, editable.
    void write(SourceRow row, FieldIndex field, const Entered& entered) {
        write({{row, field, entered.value, entered.label}});
    }
    /// Many in one step. `known`: of a single one what stood there, when the snapshot has not read it.
    void write(std::vector<CellWrite> cells, const std::optional<Value>& known = std::nullopt);
    /// What the database refused in the current record is said beneath its cell, with the ways out.
    void showRefusal();
    /// Another cell was chosen: what was said about the last one goes.
    void chosen();
    /// What is said just now; empty when nothing.
    QString message() const;

  private:
    void open(CellPlace place);
    void lose(const QString& why);
    void refuse(const QString& message);
    bool sayOf(const RecordEdit& record, SourceRow row, std::int64_t line);
    bool sayCell(const RecordEdit& record, SourceRow row, CellPlace place);
    bool sayProblem(const RecordProblem& problem, SourceRow row, std::int64_t line);
    bool sayWhole(const RecordFate& fate, SourceRow row, std::int64_t line);
    QString putBackWords(int column, const Value& value) const;
    bool isInSight(const QRect& cell) const;
    bool isForbidden(const Entered& entered);
    void say(const QRect& cell, const QString& message, const std::vector<MessageStrip::Link>& links);
    QRect messageRoom() const { return context_.viewport().rect().adjusted(0, body_.headerHeight(), 0, 0); }

    GridContext& context_;
    ShownRows& rows_;
    BodyGeometry& body_;
    Scroller& scroller_;
    Cursor& cursor_;
    std::function<void(int lines, int columns)> moveOn_;
    std::function<bool(CellPlace)> openPicture_;
    std::function<void()> decide_;
    std::string overridden_;  ///< the warning that the next commit passes over
    QPointer<Editor> editor_;
    CellPlace place_;
    SourceRow row_{};
    FieldIndex field_{};
    std::string fieldName_;    ///< and its field through a change of the table
    bool recordGone_ = false;  ///< a reload did not bring the record again
    MessageStrip* strip_ = nullptr;
    bool keepsTyped_ = false;  ///< the strip holds what was typed for a record that is gone, until one goes on
};

}  // namespace jollyrow
