// SPDX-License-Identifier: MIT
#pragma once
// LookUpEditor: the record of another table that a foreign key points to, found by typing a part of its label.

#include <optional>
#include <vector>

#include "grid/editors/line_editor.h"

namespace jollyrow {

class LookUpEditor final : public LineEditor {
    Q_OBJECT
  public:
    /// Requires: task.search.
    LookUpEditor(const EditorTask& task, QWidget* parent);
    void begin(const EditedCell& cell) override;
    void beginWith(const QString& typed) override;
    bool isUnchanged() const override { return LineEditor::isUnchanged() && !chosen_; }
    /// The record that was chosen or named in full.
    Result<Entered> entered() const override;
    bool commitsLater() override;

  protected:
    void openChoices() override { search({}); }

  private:
    void search(const QString& contains);
    void showEntries(std::vector<LookUpEntry> entries);
    void addTyped();
    std::optional<LookUpEntry> chosenEntry() const;

    QCompleter* completer_;
    std::vector<LookUpEntry> entries_;  ///< in the list; behind them, by choice, stands the wish for a new record
    std::optional<LookUpEntry> chosen_;
    int searching_ = 0;  ///< searches without an answer
    bool commitWhenFound_ = false;
};

}  // namespace jollyrow
