// SPDX-License-Identifier: MIT
#pragma once

#include <QApplication>
#include <QDir>

namespace jollyrow {

/// Pictures of work on a server that has the boatyard (`jollyrow demo-data --server`): connecting; a save that the
/// server refuses beside records that somebody else has just changed.
bool serverShots(QApplication& application, const QDir& folder, const QString& address);

}  // namespace jollyrow
