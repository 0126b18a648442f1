// SPDX-License-Identifier: MIT
#pragma once
// The toolkit's check box and pick box with marks drawn in our look, and numbers as the screens write them.

#include <QCheckBox>
#include <QComboBox>

#include "grid/grouped.h"
#include "workbench/icons.h"

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

  protected:
    void paintEvent(QPaintEvent* event) override;
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
