// SPDX-License-Identifier: MIT
#pragma once
// The inside of Session: its threads, and what is used on each of them only.

#include <memory>

#include "core/session/session.h"
#include "core/session/worker.h"

namespace jollyrow {

struct StoreSide;

struct Session::Threads {
    Rowline rowline;  ///< used on `compute` only
    std::shared_ptr<StoreSide> storeSide;
    // Joined in reverse order: nothing may start what a finished one needs.
    Worker store;
    Worker look;
    Worker compute;
    Worker load;
};

}  // namespace jollyrow
