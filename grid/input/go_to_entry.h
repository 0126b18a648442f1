// SPDX-License-Identifier: MIT
#pragma once
// GoToEntry: a small entry in the grid's corner that takes the number of a line to go to.

#include <QFrame>

class QLineEdit;

namespace jollyrow {

class GoToEntry final : public QFrame {
    Q_OBJECT
  public:
    /// Lines are numbered from 1 to `lines`, as people count.
    GoToEntry(std::int64_t lines, QWidget* parent);
    /// Places itself at the top right of `room`, shows and takes the focus.
    void openIn(const QRect& room);

  Q_SIGNALS:
    /// Counted from 0.
    void chosen(std::int64_t line);
    void closed();

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;
    void paintEvent(QPaintEvent* event) override;

  private:
    void choose();
    QLineEdit* entry_;
    std::int64_t lines_;
    bool wrong_ = false;
};

}  // namespace jollyrow
