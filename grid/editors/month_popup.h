// SPDX-License-Identifier: MIT
#pragma once
// MonthPopup: a month of days to choose from. Arrow keys move by day and week, Page keys by month, Enter chooses.

#include <QDate>
#include <QLocale>
#include <QWidget>

namespace jollyrow {

class MonthPopup final : public QWidget {
    Q_OBJECT
  public:
    MonthPopup(QDate day, QWidget* parent);

  Q_SIGNALS:
    void chosen(QDate day);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;

  private:
    void paint(QPainter& painter);
    QLocale names() const;
    QDate firstShown() const;  ///< the Monday on or before the 1st
    QRect dayRect(int index) const;
    QRect turnRect(int direction) const;
    void moveTo(QDate day);
    QDate day_;
    int hovered_ = -1;
};

}  // namespace jollyrow
