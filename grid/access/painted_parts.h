// SPDX-License-Identifier: MIT
#pragma once
// PaintedParts: a widget that paints several controls itself says what they are, and each becomes an object of its own
// to assistive technology: a button with a name, a place, a state and an action. Costs nothing while none is listening.

#include <QAccessible>
#include <QRect>
#include <QString>

class QWidget;

namespace jollyrow {

struct PaintedPart {
    QString name;
    QString description = {};
    QRect rect = {};  ///< pixels of the widget
    bool isCheckable = false, isChecked = false;
    bool hasFocus = false;  ///< the widget has it, and this is the part that keys act on
};

/// Implemented beside QWidget. Called on the window's thread.
class PaintedParts {
  public:
    virtual ~PaintedParts() = default;
    virtual int partCount() const = 0;
    /// Requires: 0 <= index < partCount().
    virtual PaintedPart part(int index) const = 0;
    /// As if it had been clicked.
    virtual void pressPart(int index) = 0;

  protected:
    PaintedParts() = default;
    PaintedParts(const PaintedParts&) = default;
    PaintedParts& operator=(const PaintedParts&) = default;
};

/// Registers the factory with the toolkit, once a process. Called by constructors of such widgets.
void installPaintedParts();
/// Another part is the one that keys act on: assistive technology reads it.
void tellPartFocus(QWidget& widget, int index);

}  // namespace jollyrow
