// SPDX-License-Identifier: MIT
#pragma once
// EntryLine: the line at the top or the foot of a grid where a new record is begun: by a click in the column where it
// is to be typed. It shows what the database will fill in by itself.

#include <QWidget>

#include <functional>

#include "grid/inside/grid_context.h"
#include "grid/layout/body_geometry.h"

namespace jollyrow {

class EntryLine final : public QWidget {
    Q_OBJECT
  public:
    /// `begin` makes a new record and edits it in a column of the plan.
    EntryLine(GridContext& context, const BodyGeometry& body, std::function<void(int column)> begin);
    /// Where it stands just now; hidden when `height` is 0.
    void place(int height);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    bool event(QEvent* event) override;

  private:
    void paint(QPainter& painter);
    GridContext& context_;
    const BodyGeometry& body_;
    std::function<void(int column)> begin_;
    bool hovered_ = false;
};

/// What a field gets when nothing is entered, where it is a plain literal of SQL: "Booked" of 'Booked'; else "".
QString plainDefault(const FieldSchema& field, const Formatter& formatter);

}  // namespace jollyrow
