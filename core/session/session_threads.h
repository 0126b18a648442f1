// SPDX-License-Identifier: MIT
#pragma once
// The inside of Session: its threads, and what is used on each of them only.

#include <memory>
#include <vector>

#include "core/session/session.h"
#include "core/session/worker.h"

namespace jollyrow {

/// The indexes of the two newest tables, and the way between them.
class TableKeys final {
  public:
    std::shared_ptr<const KeyIndex> of(const std::shared_ptr<const Table>& table);
    std::shared_ptr<const std::vector<std::uint32_t>> moves(const std::shared_ptr<const KeyIndex>& from,
                                                            const std::shared_ptr<const KeyIndex>& to);

  private:
    std::vector<std::shared_ptr<const KeyIndex>> known_;
    std::shared_ptr<const KeyIndex> from_, to_;
    std::shared_ptr<const std::vector<std::uint32_t>> moves_;
};

/// What the compute thread hands over.
struct Session::MadeView {
    Result<std::shared_ptr<const Snapshot>> snapshot = Error{};
    std::shared_ptr<const KeyIndex> keys;                     ///< null while records are still coming
    std::shared_ptr<const std::vector<std::uint32_t>> byKey;  ///< of a reload
};

struct Session::Threads {
    Rowline rowline;  ///< used on `compute` only
    TableKeys keys;   ///< used on `compute` only
    std::shared_ptr<SaveQueue> saves;
    // Joined in reverse order: nothing may start what a finished one needs.
    Worker store;
    Worker look;
    Worker compute;
    Worker load;
};

}  // namespace jollyrow
