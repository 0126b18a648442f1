// SPDX-License-Identifier: MIT
#pragma once
// Asks for the address of a database on a server and, once that is known to be needed, for a password. Knows nothing of
// connecting: it says what was asked for and shows what came of it.

#include "workbench/popovers/popover.h"

class QLabel;
class QLineEdit;

namespace jollyrow {

class CheckBox;

class ServerPopover final : public Popover {
    Q_OBJECT
  public:
    struct Entered {
        QString address;
        QString password;     ///< "" while none is asked for
        bool isKept = false;  ///< in the desktop's store, once it was taken
    };
    explicit ServerPopover(QWidget* window, const QString& address = {});
    void showProblem(const QString& problem);
    /// Shows the entry for one, with what the server said.
    void askPassword(const QString& said);
    QLineEdit* entry() { return entry_; }

  Q_SIGNALS:
    void chosen(const ServerPopover::Entered& entered);

  private:
    void choose();
    QLineEdit *entry_, *password_;
    CheckBox* keeps_;
    QLabel* problem_;
};

}  // namespace jollyrow
