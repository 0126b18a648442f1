// SPDX-License-Identifier: MIT
#pragma once
// OrderChip: at the grid's lower edge, how many edited records no longer stand where the sort and the filter would put
// them, and the click that puts them there. Hidden while all stand right.

#include <QToolButton>

namespace jollyrow {

struct Tokens;

class OrderChip final : public QToolButton {
    Q_OBJECT
  public:
    OrderChip(QWidget* viewport, const Tokens& look);
    /// Shows itself for one record or more, in the middle of the lower edge of `room`.
    void showCount(std::size_t records, const QRect& room);
};

}  // namespace jollyrow
