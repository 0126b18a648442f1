// SPDX-License-Identifier: MIT
#pragma once
// CellEditor: the entry that opens over a cell. Holds typed text, offers a list of permitted values or a calendar, and
// leaves conversion to its owner. A refusal keeps it open, marked, with the reason beneath.

#include <QFrame>
#include <QLineEdit>

#include <optional>
#include <vector>

#include "core/columns/look_up.h"
#include "core/columns/schema.h"
#include "core/design/design.h"

class QCompleter;
class QToolButton;

namespace jollyrow {

class CellEditor final : public QFrame {
    Q_OBJECT
  public:
    CellEditor(const FieldSchema& field, Alignment alignment, QWidget* parent);

    QString text() const { return line_->text(); }
    void setText(const QString& text);
    /// Begins with what was typed on the cell, replacing its value.
    void beginWith(const QString& typed);
    void beginWithAll();
    /// Shown while the entry is empty.
    void setHint(const QString& hint) { line_->setPlaceholderText(hint); }
    /// Makes it the entry of a look-up: what is typed is searched for in another table.
    void useLookUp();
    /// The answer to searchWanted().
    void showEntries(std::vector<LookUpEntry> entries);
    /// The record chosen from the list, or named in full; nothing while the search has not answered.
    std::optional<LookUpEntry> chosenEntry() const;
    bool isSearching() const { return searching_; }
    /// Commit as soon as the search has answered.
    void commitWhenFound() { commitWhenFound_ = true; }
    void setRefused(bool refused);
    bool isRefused() const { return refused_; }

  Q_SIGNALS:
    void committed(int lines, int columns);  ///< and the current cell should move by this much
    void abandoned();
    void edited();
    void searchWanted(const QString& text);

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;

  private:
    void openCalendar();
    void openChoices();
    void showChoices(const QString& prefix);
    bool handleKey(const QKeyEvent& event);

    QLineEdit* line_;
    QToolButton* button_ = nullptr;  ///< calendar or list
    QCompleter* completer_ = nullptr;
    Type type_;
    bool isLookUp_ = false, searching_ = false, commitWhenFound_ = false;
    std::vector<LookUpEntry> entries_;
    std::optional<LookUpEntry> chosen_;
    bool refused_ = false;
};

}  // namespace jollyrow
