// SPDX-License-Identifier: MIT
#pragma once
// The workbench's own icons, drawn by strokes in a box of 16 units, at any size and in any colour.

#include <QIcon>
#include <QPainter>

#include "core/columns/schema.h"

namespace jollyrow {

enum class Icon {
    AppMark,
    Undo,
    Redo,
    Find,
    Eye,
    EyeShut,
    Plus,
    Cross,
    ChevronDown,
    ChevronLeft,
    ChevronRight,
    Warning,
    Tick,
    Table,
    Server,
    View,
    File,
    Reload,
    ArrowUp,
    ArrowDown,
    TypeText,
    TypeInteger,
    TypeDecimal,
    TypeDate,
    TypeTime,
    TypeCheck,
    TypePicture,
    TypeList,
    TypeChoice,
    TypeLink,
    Grip,
    Sun,
    Moon,
};

void drawIcon(QPainter& painter, Icon icon, const QRectF& box, const QColor& colour);
/// For buttons; `sizePx` square.
QIcon makeIcon(Icon icon, const QColor& colour, int sizePx = 16);
Icon iconFor(const FieldSchema& field);
/// The product's mark in its own colours.
void drawAppMark(QPainter& painter, const QRectF& box, bool dark);

}  // namespace jollyrow
