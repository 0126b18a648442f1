// SPDX-License-Identifier: MIT
#pragma once
// TextEditor: several lines of text: drops down over the records below and grows with what is typed. Enter commits,
// Shift+Enter begins a line.

#include <QPlainTextEdit>

#include "grid/editors/editor.h"

namespace jollyrow {

class TextEditor final : public Editor {
    Q_OBJECT
  public:
    TextEditor(const EditorTask& task, QWidget* parent);

    void begin(const EditedCell& cell) override;
    void beginWith(const QString& typed) override;
    void clear() override { text_->clear(); }
    QString typed() const override;
    bool isUnchanged() const override { return begunWith_ && *begunWith_ == typed(); }
    Result<Entered> entered() const override;
    int leastWidth() const override { return 220; }
    int wantedHeight(int cellHeight) const override;

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;

  private:
    bool key(const QKeyEvent& key);

    QPlainTextEdit* text_;
    std::optional<QString> begunWith_;
    bool endsLinesByCrLf_ = false;  ///< as the text that was begun with
};

}  // namespace jollyrow
