// SPDX-License-Identifier: MIT
#pragma once
// DateEditor: a day typed, or chosen from a month.

#include "grid/editors/line_editor.h"

namespace jollyrow {

class DateEditor final : public LineEditor {
    Q_OBJECT
  public:
    DateEditor(const EditorTask& task, QWidget* parent);
    int leastWidth() const override { return task().field.type == Type::Date ? 124 : 172; }

  protected:
    void openChoices() override;
};

}  // namespace jollyrow
