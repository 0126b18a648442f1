// SPDX-License-Identifier: MIT
#pragma once
// PartTiles: the kinds of parts that can be put into a face, as tiles. Dragged onto the stage, or put in behind the
// chosen part by a click or Enter.

#include <QToolButton>
#include <QWidget>

#include "core/design/face.h"

namespace jollyrow {

class PartTiles final : public QWidget {
    Q_OBJECT
  public:
    explicit PartTiles(QWidget* parent);
    QToolButton* tile(FacePartKind kind) const;

  Q_SIGNALS:
    void chosen(jollyrow::FacePartKind kind);
    /// A tile is being dragged; global coordinates.
    void dragged(jollyrow::FacePartKind kind, const QPoint& at);
    void dropped(jollyrow::FacePartKind kind, const QPoint& at);
    void dragEnded();

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    bool mouse(QToolButton& tile, FacePartKind kind, const QMouseEvent& event);

    QPoint pressedAt_;
    bool isPressed_ = false, isDragged_ = false;
};

}  // namespace jollyrow
