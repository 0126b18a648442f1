// SPDX-License-Identifier: MIT
#pragma once
// Shows the SQL of the trigger by which a server tells what others save, for the builder to read, copy and run.

#include "workbench/popovers/popover.h"

class QPlainTextEdit;

namespace jollyrow {

class TriggerPopover final : public Popover {
    Q_OBJECT
  public:
    TriggerPopover(QWidget* window, const QString& table, const QString& sql);

  private:
    QPlainTextEdit* sql_;
};

}  // namespace jollyrow
