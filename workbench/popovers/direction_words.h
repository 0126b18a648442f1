// SPDX-License-Identifier: MIT
#pragma once

#include <QStringList>

#include "core/columns/type.h"

namespace jollyrow {

/// What the two directions of an order are called for values of a type: up, then down.
QStringList directionsFor(Type type);

}  // namespace jollyrow
