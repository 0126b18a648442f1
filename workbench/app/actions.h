// SPDX-License-Identifier: MIT
#pragma once
// Actions: everything the workbench can do, as a table of name, shortcut and function; and the finder that runs any of
// them by typing part of its name.

#include <QAction>
#include <QKeySequence>
#include <QObject>

#include <functional>
#include <vector>

#include "workbench/popovers/popover.h"

class QLineEdit;
class QListWidget;

namespace jollyrow {

struct ActionSpec {
    QString name;
    QKeySequence keys;
    std::function<void()> run;
    std::function<bool()> isPossible;  ///< empty = always
};

class Actions final : public QObject {
    Q_OBJECT
  public:
    explicit Actions(QWidget* window);
    void add(ActionSpec spec);
    const std::vector<ActionSpec>& all() const { return specs_; }

  private:
    QWidget* window_;
    std::vector<ActionSpec> specs_;
};

class ActionFinder final : public Popover {
    Q_OBJECT
  public:
    ActionFinder(QWidget* window, const std::vector<ActionSpec>& actions);

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;
    void showEvent(QShowEvent* event) override;

  private:
    void filter(const QString& typed);
    void runCurrent();
    std::vector<ActionSpec> actions_;
    QLineEdit* entry_;
    QListWidget* list_;
};

}  // namespace jollyrow
