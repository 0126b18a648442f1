// SPDX-License-Identifier: MIT
#pragma once
// JointSave: saves of several sessions on one source, in one transaction: each hands its records over on its own
// store's thread, the last one to come writes all of them, and each takes its own outcomes back. Thread-safe.

#include <condition_variable>
#include <cstddef>
#include <memory>
#include <mutex>
#include <optional>
#include <span>
#include <vector>

#include "core/sources/source.h"

namespace jollyrow {

class JointSave final {
  public:
    /// One more takes part: its write() will come.
    void join();
    /// All that take part have joined. Until then everybody waits.
    void begin();
    /// Blocks until all parts are there and are written: an outcome a record of this part, in their order. When one
    /// record of any part is not stored, none is.
    /// `prepared`: Store::Prepared, by the part's records; called while this thread waits here.
    Result<std::vector<Outcome>> write(std::span<const RecordWrite> records, Store& store,
                                       const Store::Prepared& prepared);
    /// A part cannot come: nothing of the others is written.
    void giveUp(const Error& why);

  private:
    struct Part {
        std::span<const RecordWrite> records;
        const Store::Prepared& prepared;
        std::vector<Outcome> outcomes;
    };
    void writeAll(Store& store);

    std::mutex mutex_;
    std::condition_variable changed_;
    std::size_t joined_ = 0;
    bool begun_ = false;
    std::vector<Part*> parts_;  ///< those that wait
    std::optional<Error> error_;
    bool done_ = false, writing_ = false;
};

}  // namespace jollyrow
