// SPDX-License-Identifier: MIT
#pragma once
// Kelpie Quay, a made-up boatyard: owners, vessels, berths with power meters, jobs and their lines, as an SQLite
// database. The same seed and number of jobs give the same content. People and firms are made up.

#include <cstdint>
#include <functional>
#include <string>

#include "core/base/cancel.h"
#include "core/base/result.h"
#include "core/design/design.h"

namespace jollyrow::demo {

struct BoatyardSize {
    std::int64_t jobs = 5000;
    std::uint64_t seed = 1;
};

/// Replaces `path`: written beside and renamed when whole. `onProgress` gets the share done, 0 to 1; may be empty.
Result<void> makeBoatyard(const std::string& path, const BoatyardSize& size,
                          const std::function<void(double)>& onProgress, const Cancel& cancel = {});

/// The design that comes with it: its jobs, headed and laid out. `databaseName` is the path to keep in the design, or a
/// server's address.
Design yardJobsDesign(const std::string& databaseName);
/// The same jobs with composed faces: marks, bars with their axis, trends.
Design yardBoardDesign(const std::string& databaseName);
/// The lines of the jobs, each job's beneath a banner row.
Design yardLinesDesign(const std::string& databaseName);
/// The same jobs at work: those not done, by status and dock, summed up.
Design yardWorkDesign(const std::string& databaseName);

}  // namespace jollyrow::demo
