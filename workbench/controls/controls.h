// SPDX-License-Identifier: MIT
#pragma once
// The toolkit's check box and pick box with marks drawn in our look, and numbers as the screens write them.

#include <QCheckBox>
#include <QComboBox>

#include "grid/paint/grouped.h"
#include "workbench/app/icons.h"

class QToolButton;

namespace jollyrow {

class CheckBox final : public QCheckBox {
  public:
    using QCheckBox::QCheckBox;

  protected:
    void paintEvent(QPaintEvent* event) override;
};

class PickBox final : public QComboBox {
  public:
    /// As wide as it is given; long entries are elided.
    explicit PickBox(QWidget* parent = nullptr);
    void showPopup() override;

  protected:
    void paintEvent(QPaintEvent* event) override;
    /// The wheel scrolls what is around the box: nothing is chosen in passing.
    void wheelEvent(QWheelEvent* event) override;
    /// While nothing is chosen yet, the arrows open the list instead of choosing its first entry.
    void keyPressEvent(QKeyEvent* event) override;
};

/// A panel with a soft border, for one of several things.
class Card final : public QWidget {
  public:
    using QWidget::QWidget;

  protected:
    void paintEvent(QPaintEvent* event) override;
};

/// A small button with an icon, on a card; its name is spoken and is its tool tip.
QToolButton* cardButton(Icon icon, const QString& name, bool enabled, QWidget* card);

/// "12 345" with thin spaces.
}  // namespace jollyrow
