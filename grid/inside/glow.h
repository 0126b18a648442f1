// SPDX-License-Identifier: MIT
#pragma once
// Glow: records that somebody else has changed light up for a moment. Looks for such changes while the design says so.
// Where the desktop wants no motion the light stays as it is until it goes.

#include <QBasicTimer>
#include <QElapsedTimer>
#include <QObject>

#include <unordered_map>
#include <vector>

#include "core/columns/row_ref.h"
#include "core/rows/snapshot.h"
#include "grid/inside/grid_context.h"

namespace jollyrow {

class Glow final : public QObject {
  public:
    explicit Glow(const GridContext& context) : context_(context) { clock_.start(); }

    /// Looks for changes while the design wants them shown.
    void follow();
    /// By row of the snapshot, to be asked by the painter.
    void lightUp(const std::vector<SourceRow>& rows);
    /// From 1, just now, to 0: how bright a record is.
    double of(SourceRow row) const;
    bool isEmpty() const { return since_.empty(); }
    /// The rows are others now.
    void clear() { since_.clear(); }

  protected:
    void timerEvent(QTimerEvent* event) override;

  private:
    const GridContext& context_;
    QElapsedTimer clock_;
    std::unordered_map<SourceRow, qint64> since_;  ///< milliseconds of the clock
    QBasicTimer looking_, fading_;
};

}  // namespace jollyrow
