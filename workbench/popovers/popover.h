// SPDX-License-Identifier: MIT
#pragma once
// Popover: a card over the grid with a tip at what it belongs to. Not modal; closes on Escape or a click elsewhere.

#include <QFrame>

class QHBoxLayout;
class QVBoxLayout;
class QLabel;

namespace jollyrow {

class Popover : public QFrame {
    Q_OBJECT
  public:
    Popover(const QString& title, QWidget* window);
    /// Opens under `anchor` (in window coordinates), as high as its content needs; above it near the window's foot.
    void openUnder(const QRect& anchor, int width);

  Q_SIGNALS:
    void closed();

  protected:
    QVBoxLayout* body() const { return body_; }
    void fitHeight();
    /// A line at the card's end, shown by showFoot() while there is something to say.
    QHBoxLayout& addFoot();
    void showFoot(bool shown) { foot_->setVisible(shown); }
    /// Puts what was built anew in the place of the old, which goes; the focus stays in the control of the same name.
    void exchange(QWidget* old, QWidget* fresh);
    /// Around what may be higher than the window; exchange() works within it, too.
    QWidget* scrolling(QWidget* content);
    void paintEvent(QPaintEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;
    /// What grows while one types in it takes the card along.
    bool event(QEvent* event) override;

  private:
    QVBoxLayout* body_;
    QWidget* foot_ = nullptr;
    int tipX_ = 0;
    int aboveY_ = -1;  ///< opened above this y, because there is no room below; -1: below
};

}  // namespace jollyrow
