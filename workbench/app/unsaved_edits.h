// SPDX-License-Identifier: MIT
#pragma once
// Edits that the database refused, before something would drop them.

#include <QStringList>

class QWidget;

namespace jollyrow {

class Grid;

/// A line each: record, column, what was typed, why it was refused. At most a dozen, then an ellipsis.
QStringList unsavedEdits(const Grid& grid);
/// Asks, with the list, when some would be lost by `doing`; true when there are none or they may go.
bool mayDropEdits(QWidget* parent, Grid& grid, const QString& doing);

}  // namespace jollyrow
