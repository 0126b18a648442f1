// SPDX-License-Identifier: MIT
#pragma once
// PasteCard: what of a paste cannot be written, and why, before anything is: the rest may be pasted, or nothing.

#include "grid/records/floating_card.h"
#include "grid/select/block_edit.h"

namespace jollyrow {

class PasteCard final : public FloatingCard {
    Q_OBJECT
  public:
    PasteCard(const BlockChange& change, const Tokens& look, QWidget* parent);

  Q_SIGNALS:
    void agreed();
};

}  // namespace jollyrow
