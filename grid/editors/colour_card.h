// SPDX-License-Identifier: MIT
#pragma once
// ColourCard: colours to choose from, in columns of one hue. Arrow keys move, Enter chooses.

#include <QColor>
#include <QWidget>

#include <vector>

namespace jollyrow {

class ColourCard final : public QWidget {
    Q_OBJECT
  public:
    ColourCard(const QColor& present, QWidget* parent);
    static constexpr int kAcross = 9, kDown = 5;

  Q_SIGNALS:
    void chosen(const QColor& colour);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    QRect tileRect(int index) const;
    int tileAt(const QPoint& place) const;
    void choose(int index);
    std::vector<QColor> colours_;
    int at_ = 0;
};

}  // namespace jollyrow
