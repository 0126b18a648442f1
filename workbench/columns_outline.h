// SPDX-License-Identifier: MIT
#pragma once
// ColumnsOutline: the columns of the design in order, shown and hidden, and below them the fields of the source that
// the grid does not use. Click selects, the eye shows or hides, dragging reorders. Sends intents; changes nothing.

#include <QAbstractScrollArea>

#include <optional>
#include <vector>

#include "core/columns/schema.h"
#include "core/design/design.h"

namespace jollyrow {

class ColumnsOutline final : public QAbstractScrollArea {
    Q_OBJECT
  public:
    explicit ColumnsOutline(QWidget* parent = nullptr);
    void setContent(const Design& design, const TableSchema& schema);
    void setSelected(const std::optional<QString>& field);
    /// Where a field's row stands in the viewport, for tests.
    QRect rowRect(const QString& field) const;
    QRect eyeRect(const QString& field) const;

  Q_SIGNALS:
    void selected(const QString& field);
    void shownToggled(const QString& field);
    /// Move `field` before `before`; an empty `before` is the end.
    void moved(const QString& field, const QString& before);
    void added(const QString& field);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    bool viewportEvent(QEvent* event) override;
    void scrollContentsBy(int dx, int dy) override;

  private:
    enum class Kind { Title, Column, Gap, UnusedTitle, Unused };
    struct Row {
        Kind kind = Kind::Column;
        QString field, text, note;
        int icon = 0;
        bool shown = true;
        int y = 0, height = 23;
    };
    void relayout();
    int rowAt(QPoint position) const;
    QRect rectOf(const Row& row) const;
    QRect eyeOf(const Row& row) const;
    void paintRow(QPainter& painter, const Row& row, bool hovered);

    std::vector<Row> rows_;
    std::optional<QString> selected_;
    int hovered_ = -1;
    int pressed_ = -1;
    QPoint pressedAt_;
    bool dragging_ = false;
    int landing_ = -1;
};

}  // namespace jollyrow
