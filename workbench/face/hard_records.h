// SPDX-License-Identifier: MIT
#pragma once
// HardRecords: the face in its real size on the records that try it most: the widest, the narrowest, the smallest and
// largest number, right-to-left text, nothing at all. A click shows that record on the stage.

#include <QWidget>

#include <memory>
#include <vector>

#include "workbench/face/cell_drawing.h"

namespace jollyrow {

class HardRecords final : public QWidget {
    Q_OBJECT
  public:
    explicit HardRecords(QWidget* parent);
    /// Looks through records spread over those shown, at most some thousands.
    void present(CellDrawing* drawing, const Snapshot& snapshot, QSize cell);
    struct Entry {
        SourceRow row{};
        QString words, note;
        bool isCut = false;
    };
    const std::vector<Entry>& entries() const { return entries_; }
    QRect cellRect(std::size_t entry) const;
    /// How many of those looked at need more width than the column has, and the most that one needs.
    int cut() const { return cut_; }
    int widest() const { return widest_; }
    int lookedAt() const { return lookedAt_; }
    /// Microseconds that reading and measuring a cell took.
    double microseconds() const { return microseconds_; }
    QSize sizeHint() const override;

  Q_SIGNALS:
    void chosen(quint32 row);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;

  private:
    int columns() const;
    CellDrawing* drawing_ = nullptr;
    QSize cell_;
    std::vector<Entry> entries_;
    int cut_ = 0, widest_ = 0, lookedAt_ = 0;
    double microseconds_ = 0;
};

}  // namespace jollyrow
