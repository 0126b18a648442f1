// SPDX-License-Identifier: MIT
#pragma once
// Asks for the address of a database on a server. Knows nothing of connecting: it says what was asked for and shows
// what came of it.

#include "workbench/popovers/popover.h"

class QLabel;
class QLineEdit;

namespace jollyrow {

class ServerPopover final : public Popover {
    Q_OBJECT
  public:
    explicit ServerPopover(QWidget* window, const QString& address = {});
    void showProblem(const QString& problem);
    QLineEdit* entry() { return entry_; }

  Q_SIGNALS:
    void chosen(const QString& address);

  private:
    QLineEdit* entry_;
    QLabel* problem_;
};

}  // namespace jollyrow
