// SPDX-License-Identifier: MIT
#pragma once
// StatedOrder: values in an order of the builder's own, as chips (order_chips.h) that are moved and left to the end.

#include <QWidget>

#include <functional>
#include <string>
#include <vector>

namespace jollyrow {

class Session;

class StatedOrder final : public QWidget {
    Q_OBJECT
  public:
    using Changed = std::function<void(std::vector<std::string>)>;
    /// `changed` gets the values in their new order; none when the alphabet is to do again.
    StatedOrder(const std::vector<std::string>& values, QWidget* parent, const Changed& changed);
    /// The values of a field as they stand now, at most 40, to begin with. `done` is not called once `owner` is gone.
    static void begin(Session& session, const std::string& field, QObject* owner, Changed done);
};

}  // namespace jollyrow
