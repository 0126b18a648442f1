// SPDX-License-Identifier: MIT
#pragma once
// CutHistogram: how a column's values lie, as bars, with the cut points of ranges as lines that are dragged, added by a
// click and taken away by dragging them out or with Delete.

#include <QWidget>

#include <memory>
#include <string>
#include <vector>

#include "core/columns/column.h"
#include "core/rows/value_spread.h"

namespace jollyrow {

class CutHistogram final : public QWidget {
    Q_OBJECT
  public:
    explicit CutHistogram(QWidget* parent);
    /// Null while it is being found.
    void setSpread(std::shared_ptr<const ValueSpread> spread);
    /// In rising order, in the values' own unit.
    void setCuts(std::vector<double> cuts);
    const std::vector<double>& cuts() const { return cuts_; }
    /// How a cut is written: 250, 12.5, 2026-11-23.
    QString textOf(double cut) const;
    /// Where a value stands across, pixels.
    double xOf(double value) const;
    QSize sizeHint() const override { return {420, 108}; }

  Q_SIGNALS:
    /// `settled`: the button was let go.
    void cutsChanged(bool settled);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void focusInEvent(QFocusEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;

  private:
    void paintBins(QPainter& painter, const QRectF& area) const;
    void paintCuts(QPainter& painter, const QRectF& area) const;
    void paintEnds(QPainter& painter, const QRectF& area) const;
    QRectF plot() const;
    double valueAt(double x) const;
    /// To a round number as fine as a pixel is.
    double rounded(double value) const;
    int cutAt(double x) const;
    void moveCut(int cut, double to, bool settled);
    void step(int way, bool toNext);

    std::shared_ptr<const ValueSpread> spread_;
    std::vector<double> cuts_;
    int dragged_ = -1;
    int current_ = 0;  ///< the cut that keys move
    double draggedFrom_ = 0;
};

}  // namespace jollyrow
