// SPDX-License-Identifier: MIT
#pragma once
// DurationEditor: a span of time, typed as the column shows it or with units ("1:30", "90 min", "1.5 h"). Ctrl+Up and
// Ctrl+Down step by a quarter of an hour, to the next full one first.

#include "grid/editors/line_editor.h"

namespace jollyrow {

class DurationEditor final : public LineEditor {
    Q_OBJECT
  public:
    DurationEditor(const EditorTask& task, QWidget* parent);
    /// True for numbers that their column shows as spans of time.
    static bool edits(const EditorTask& task);

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    QString written(std::int64_t minutes) const;
    void step(int quarters);
};

}  // namespace jollyrow
