// SPDX-License-Identifier: MIT
#pragma once
// Editor: what opens over a cell to enter a value. One file a kind, each with a line in editor_kinds.cpp; a new kind
// derives from this or from LineEditor (docs/adding.md). The owner places it, takes the value and says refusals.

#include <QFrame>

#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/base/result.h"
#include "core/columns/look_up.h"
#include "core/columns/schema.h"
#include "core/design/design.h"
#include "core/formats/entry_pattern.h"
#include "core/formats/formatter.h"

namespace jollyrow {

/// What is to be edited, and with what.
struct EditorTask {
    FieldSchema field;
    std::shared_ptr<const Formatter> formatter = nullptr;  ///< of the column; null: plain texts
    Alignment alignment = Alignment::Left;
    QString heading = {};  ///< for assistive technology
    QString hint = {};     ///< shown while nothing is entered
    EntryKind kind = EntryKind::Automatic;
    bool wraps = false;                                     ///< the column shows several lines
    int most = 5;                                           ///< of a rating
    std::shared_ptr<const EntryPattern> pattern = nullptr;  ///< that a text must match; null: anything
    std::string linkedTable = {};                           ///< of a look-up: where its records are
    /// Of a look-up: finds the other table's records by label; empty for all others. The answer comes later, on the
    /// window's thread.
    using Found = std::function<void(const Result<std::vector<LookUpEntry>>&)>;
    std::function<void(const QString& contains, Found)> search = {};
    /// Makes a record of the other table that is called so; empty where none may be made.
    using Added = std::function<void(const Result<LookUpEntry>&)>;
    std::function<void(const QString& label, Added)> add = {};
};

/// What a cell holds when its editor opens.
struct EditedCell {
    Value value;
    QString shown;   ///< its text in the grid
    QString misfit;  ///< what is stored, when that is no value of the field; else ""
};

/// A value that was entered, and what stands for it where it is a look-up's.
struct Entered {
    Value value;
    std::string label = {};
};

class Editor : public QFrame {
    Q_OBJECT
  public:
    Editor(const EditorTask& task, QWidget* parent);

    /// Begins with the cell's value, to be overwritten or gone on with.
    virtual void begin(const EditedCell& cell) = 0;
    /// Begins with what was typed on the cell, in its value's place.
    virtual void beginWith(const QString& typed) = 0;
    virtual void clear() = 0;
    /// As it stands, for a message when it cannot be kept.
    virtual QString typed() const = 0;
    /// True while it stands as it began: committing it changes nothing, whatever the cell holds by now.
    virtual bool isUnchanged() const = 0;
    /// What stands in it as a value of the field; or why it is none, for the person who typed it.
    virtual Result<Entered> entered() const = 0;
    /// True when it cannot be told yet what was entered; committed() is sent again once it can.
    virtual bool commitsLater() { return false; }
    /// In pixels; a narrower cell's editor reaches over its neighbours.
    virtual int leastWidth() const { return 90; }
    /// In pixels; higher than the cell, it drops down over the records below. Asked again after resized().
    virtual int wantedHeight(int cellHeight) const { return cellHeight; }

    /// It stands on a form for good, not over a cell while that is edited: its frame is strong only with the keys in
    /// it.
    void standAlone();
    void setRefused(bool refused);
    bool isRefused() const { return refused_; }

  Q_SIGNALS:
    void committed(int lines, int columns);  ///< and the current cell should move by this much
    void abandoned();
    void edited();
    void resized();  ///< wantedHeight() is another one
    void failed(const QString& message);

  protected:
    void paintEvent(QPaintEvent* event) override;
    const EditorTask& task() const { return task_; }

  private:
    EditorTask task_;
    bool refused_ = false;
    bool isAlone_ = false;
};

/// The editor that a field gets: the first kind that can edit it. Owned by `parent`.
Editor* makeEditor(const EditorTask& task, QWidget* parent);

/// Makes an application's own editor, owned by `parent`; null: the ready one after all.
using EditorFactory = std::function<Editor*(const EditorTask& task, QWidget* parent)>;

}  // namespace jollyrow
