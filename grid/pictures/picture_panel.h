// SPDX-License-Identifier: MIT
#pragma once
// PicturePanel: opens at a cell with its picture and what can be done with it: loaded from a file, pasted, copied,
// saved to a file, taken out. By mouse and by keys; Esc closes it.

#include <QFrame>
#include <QPushButton>

#include <functional>
#include <vector>

#include "grid/pictures/picture_view.h"

namespace jollyrow {

class PicturePanel final : public QFrame {
    Q_OBJECT
  public:
    enum class Action { Load, Paste, Copy, Save, Empty };
    PicturePanel(PictureShelf& shelf, QWidget* parent);
    /// At a cell of the parent, where there is room.
    void open(const QRect& cell, const Tokens& look, bool isEditable, bool hasPicture);
    PictureView& view() { return *view_; }
    QPushButton* button(Action action) const { return buttons_[static_cast<std::size_t>(action)]; }

  Q_SIGNALS:
    void chosen(jollyrow::PicturePanel::Action action);
    void closed();

  protected:
    void paintEvent(QPaintEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    PictureView* view_;
    std::vector<QPushButton*> buttons_;
    Tokens look_;
};

}  // namespace jollyrow
