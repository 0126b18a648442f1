// SPDX-License-Identifier: MIT
#pragma once
// The marks of edits: of a record in its gutter, of a cell at its edge. Told by shape, not by colour alone.

#include <QPainter>

#include "core/design/cell_text.h"
#include "grid/paint/tokens.h"

namespace jollyrow {

/// Some 14 pixels around `centre`. Requires: mark > CellMark::Saved.
void drawRecordMark(QPainter& painter, const QPointF& centre, const Tokens& t, CellMark mark);
/// A swallow-tailed pennant that hangs from the row's upper line at the text's edge: the value is typed and not saved.
void drawPennant(QPainter& painter, const QRect& cell, const Tokens& t, bool atRight);
/// Two brackets that face each other and do not meet: somebody else has written another value.
void drawFacingBrackets(QPainter& painter, const QRect& cell, const Tokens& t);
/// What a mark says, for status lines and assistive technology; "" for none.
QString words(CellMark mark);

}  // namespace jollyrow
