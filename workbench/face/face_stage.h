// SPDX-License-Identifier: MIT
#pragma once
// FaceStage: the cell whose face is composed, enlarged. Its parts are chosen, dragged about, and others dropped in; the
// brackets beneath say how wide each is. Sends intents; the grid follows at once.

#include <QWidget>

#include <optional>

#include "core/design/face_edit.h"
#include "workbench/face/cell_drawing.h"

namespace jollyrow {

class FaceStage final : public QWidget {
    Q_OBJECT
  public:
    static constexpr int kScale = 3;
    explicit FaceStage(QWidget* parent);
    /// The cell of a record in its real size. `drawing` must outlive what is shown; null shows nothing.
    void present(CellDrawing* drawing, QSize cell, const FacePart& root, const FacePath& selected);
    /// A part is dragged over it from elsewhere, in this widget's coordinates; nullopt: no longer.
    void dragOver(std::optional<QPoint> at);
    /// Where it would land now.
    const std::optional<FaceLanding>& landing() const { return landing_; }
    /// Where a shown part is on this widget; empty for others.
    QRect rectOf(const FacePath& path) const;
    QSize sizeHint() const override;

  Q_SIGNALS:
    void selected(const jollyrow::FacePath& path);
    void moved(const jollyrow::FacePath& from, const jollyrow::FaceLanding& to);
    void shifted(int by);
    void removeWanted();

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void leaveEvent(QEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    std::optional<FacePath> pathBy(int key) const;
    QPoint origin() const;
    QRect cellRect() const { return QRect(QPoint(0, 0), cell_); }
    QPoint toCell(QPoint position) const { return (position - origin()) / kScale; }
    QRectF fromCell(const QRectF& rect) const;
    std::optional<FacePath> pathAt(QPoint position) const;
    std::optional<FaceLanding> landingAt(QPoint position) const;
    FaceLanding beside(const FacePath& path, const QRectF& rect, QPointF at) const;
    std::optional<std::size_t> planned(const FacePath& path) const;
    void paintOutlines(QPainter& painter);
    void paintBrackets(QPainter& painter);
    void paintLanding(QPainter& painter);

    CellDrawing* drawing_ = nullptr;
    QSize cell_;
    FacePart root_;
    FacePath selected_;
    std::vector<QRectF> rects_;  ///< by planned part, in the cell
    std::optional<FacePath> hovered_;
    std::optional<FaceLanding> landing_;
    std::optional<QPoint> pressedAt_, draggedTo_;
};

}  // namespace jollyrow
