// SPDX-License-Identifier: MIT
#pragma once
// FloatingCard: a card with a shadow over the grid, a heading and buttons at its foot. Escape closes it.

#include <QFrame>

#include "grid/paint/tokens.h"

class QHBoxLayout;
class QLabel;
class QPushButton;
class QVBoxLayout;

namespace jollyrow {

class FloatingCard : public QFrame {
    Q_OBJECT
  public:
    FloatingCard(const QString& heading, const Tokens& look, QWidget* parent);
    /// Under `anchor`, above it where there is more room, inside the parent.
    void openAt(const QRect& anchor);

  Q_SIGNALS:
    void closed();

  protected:
    void paintEvent(QPaintEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void closeEvent(QCloseEvent* event) override;

    QVBoxLayout& body() { return *body_; }
    const Tokens& look() const { return look_; }
    enum class Weight { Plain, Main };
    QPushButton* addButton(const QString& words, Weight weight);
    void addStretch();
    QLabel* quietLabel(const QString& words);

  private:
    const Tokens& look_;
    QVBoxLayout* body_;
    QHBoxLayout* foot_;
};

}  // namespace jollyrow
