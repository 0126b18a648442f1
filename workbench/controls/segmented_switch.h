// SPDX-License-Identifier: MIT
#pragma once
// SegmentedSwitch: a few choices side by side, one of them on. Arrow keys move it.

#include <QStringList>
#include <QWidget>

namespace jollyrow {

class SegmentedSwitch final : public QWidget {
    Q_OBJECT
  public:
    explicit SegmentedSwitch(const QStringList& choices, QWidget* parent = nullptr);
    int current() const { return current_; }
    /// Emits nothing.
    void setCurrent(int index);
    QSize sizeHint() const override;
    /// Narrower than it would like, with its words still whole.
    QSize minimumSizeHint() const override;

  Q_SIGNALS:
    void chosen(int index);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    QRect part(int index) const;
    void choose(int index);
    QStringList choices_;
    int current_ = 0;
};

}  // namespace jollyrow
