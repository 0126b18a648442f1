// SPDX-License-Identifier: MIT
#pragma once
// Navigator: moves the current cell by keys, clicks, typing and going back, shows it, and tells the application.

#include <QElapsedTimer>
#include <QPointer>

#include <functional>

#include "grid/input/go_to_entry.h"
#include "grid/inside/scroller.h"
#include "grid/select/cursor.h"

namespace jollyrow {

class Navigator final {
  public:
    struct Hooks {
        std::function<bool()> mayLeave;               ///< false while what stands in an editor is wrong
        std::function<bool(SourceRow next)> mayGoTo;  ///< false while the record that would be left is wrong
        std::function<void()> chosen;                 ///< another cell is current
        std::function<void()> selected;               ///< other records are selected
        std::function<void()> announceFocus;          ///< to assistive technology
    };
    Navigator(GridContext& context, ShownRows& rows, BodyGeometry& body, Scroller& scroller, Cursor& cursor,
              Hooks hooks)
        : context_(context), rows_(rows), body_(body), scroller_(scroller), cursor_(cursor), hooks_(std::move(hooks)) {}

    void choose(CellPlace place, SelectHow how) { choose(place, how, Cursor::Way::Onwards); }
    /// In the present column.
    void chooseLine(std::int64_t line, SelectHow how) { choose({line, cursor_.column()}, how); }
    void moveBy(std::int64_t lines, int columns, SelectHow how);
    /// Up and down inside a record of several lines, else to the next record.
    void moveAcrossLines(int step, SelectHow how);
    void selectAll();
    bool revisit(bool forward);
    /// Typing on a column that is not edited goes to the next record whose value there begins so.
    void jumpTo(const QString& typed);
    /// True while what is typed goes on with an earlier jump.
    bool isTypingAhead() const;
    /// The entry that says where to go; by the beginning of a value also in columns that are edited.
    void openGoTo(GoToEntry::By by = GoToEntry::By::Line);
    /// Tells which record is current, after the lines under it have changed.
    void tellCurrent();

  private:
    void choose(CellPlace place, SelectHow how, Cursor::Way way);
    void searchAhead(CellPlace from, std::int64_t first, int search);
    void goToKey(const QString& typed);
    void closeGoTo();

    GridContext& context_;
    ShownRows& rows_;
    BodyGeometry& body_;
    Scroller& scroller_;
    Cursor& cursor_;
    Hooks hooks_;
    QPointer<GoToEntry> goTo_;
    QString typedAhead_;
    QElapsedTimer typedAt_;
    int search_ = 0;  ///< counts those for what was typed ahead: an older one ends
};

}  // namespace jollyrow
