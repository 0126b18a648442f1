// SPDX-License-Identifier: MIT
#pragma once
// What a rule entry offers to complete: columns, those of tables that foreign keys lead to, functions and parameters.

#include <QStringList>

#include "core/session/session.h"

namespace jollyrow {

/// Reads the schemas of the tables that are pointed to, a few milliseconds.
QStringList ruleNames(const Session& session, const Design& design);

}  // namespace jollyrow
