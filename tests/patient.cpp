// SPDX-License-Identifier: MIT
// Linked to every test program: what a window would go on without after part of a frame is waited for here, however
// slow the machine is. Tests of what comes late set the wait themselves.
#include "core/base/in_time.h"

namespace {
const bool isPatient = (jollyrow::setLongestWait(std::chrono::seconds(30)), true);
}  // namespace
