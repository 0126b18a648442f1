// SPDX-License-Identifier: MIT
#pragma once
// ChoiceEditor: one of the values that the database permits, typed in part or chosen from the list of them.

#include "grid/editors/line_editor.h"

namespace jollyrow {

class ChoiceEditor final : public LineEditor {
    Q_OBJECT
  public:
    /// Requires: task.field.permitted is not empty.
    ChoiceEditor(const EditorTask& task, QWidget* parent);
    void begin(const EditedCell& cell) override;
    void beginWith(const QString& typed) override;

  protected:
    void openChoices() override;

  private:
    QCompleter* completer_;
};

}  // namespace jollyrow
