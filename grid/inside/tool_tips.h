// SPDX-License-Identifier: MIT
#pragma once
// What is told about a point of the grid when the mouse rests on it: the whole text where it is cut, why a cell is
// marked, what a heading is bound to.

#include <QRect>
#include <QString>

#include "grid/faces/part_presses.h"
#include "grid/headings/heading_control.h"
#include "grid/layout/shown_rows.h"

namespace jollyrow {

struct Tip {
    QString text;  ///< plain; empty for none
    QRect area;    ///< where it holds
};

Tip tipAt(QPoint position, const GridContext& context, const ShownRows& rows, const BodyGeometry& body,
          const HeadingControl& headings, const Painters& painters, const PartPresses& presses);

}  // namespace jollyrow
