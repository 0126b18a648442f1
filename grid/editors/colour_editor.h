// SPDX-License-Identifier: MIT
#pragma once
// ColourEditor: a colour as "#rrggbb", typed, or chosen from a card of some.

#include "grid/editors/line_editor.h"

namespace jollyrow {

class ColourEditor final : public LineEditor {
    Q_OBJECT
  public:
    ColourEditor(const EditorTask& task, QWidget* parent);
    /// A colour that is one, in small letters with all six digits; else why it is none.
    Result<Entered> entered() const override;
    int leastWidth() const override { return 120; }

  protected:
    void openChoices() override;
};

}  // namespace jollyrow
