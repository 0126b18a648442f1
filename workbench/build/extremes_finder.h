// SPDX-License-Identifier: MIT
#pragma once
// ExtremesFinder: the records that try a column's format hardest, found beside the window's thread. Window's thread.

#include <QObject>

#include <cstdint>
#include <memory>

#include "core/base/worker.h"
#include "core/columns/extremes.h"

namespace jollyrow {

class ExtremesFinder final : public QObject {
    Q_OBJECT
  public:
    using QObject::QObject;
    ~ExtremesFinder() override;
    /// Finds those of this column, unless it did already; null for none. found() tells when they are there.
    void look(const std::shared_ptr<const Column>& column);
    /// Of the column that was looked at last; empty until they are there.
    const Extremes& extremes() const { return extremes_; }

  Q_SIGNALS:
    void found();

  private:
    Extremes extremes_;
    std::uint64_t of_ = 0;  ///< id of the column
    std::unique_ptr<Worker> worker_;
};

}  // namespace jollyrow
