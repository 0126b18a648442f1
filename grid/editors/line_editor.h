// SPDX-License-Identifier: MIT
#pragma once
// LineEditor: an entry of one line, read by the column's format. Kinds with something to choose from add a button and
// what it opens (Alt+Down).

#include <QLineEdit>

#include "grid/editors/editor.h"

class QCompleter;
class QToolButton;

namespace jollyrow {

/// Takes what a pattern may still become.
class PatternValidator;

class LineEditor : public Editor {
    Q_OBJECT
  public:
    LineEditor(const EditorTask& task, QWidget* parent);

    void begin(const EditedCell& cell) override;
    void beginWith(const QString& typed) override;
    void clear() override { setText({}); }
    QString typed() const override { return line_->text(); }
    bool isUnchanged() const override { return begunWith_ == line_->text(); }
    Result<Entered> entered() const override;
    int leastWidth() const override;
    void setText(const QString& text) { line_->setText(text); }

  protected:
    /// A button at the right that opens what there is to choose from.
    void addButton(const QString& accessibleName);
    /// By the button or Alt+Down.
    virtual void openChoices() {}
    QLineEdit& line() const { return *line_; }
    /// Shows the text of the cell's present value, all of it selected.
    void beginWithAll(const QString& text);
    bool eventFilter(QObject* watched, QEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;

  private:
    bool handleKey(const QKeyEvent& event);
    void fillIn(const QString& text);
    QLineEdit* line_;
    QToolButton* button_ = nullptr;
    PatternValidator* validator_ = nullptr;
    bool isDeleting_ = false;           ///< by the key that is being handled
    std::optional<QString> begunWith_;  ///< nothing when it began with what was typed
};

/// Shows a completer's entries for a prefix under `over`, in a list wide and high enough for them.
void showCompletions(QCompleter& completer, const QString& prefix, const QWidget& over);

}  // namespace jollyrow
