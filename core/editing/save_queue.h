// SPDX-License-Identifier: MIT
#pragma once
// SaveQueue: the write side of a session. Saves are numbered; one that was asked for while an earlier one of the same
// cell, or of the record's key, had no answer yet builds on what that one left. Confined to the store's thread.

#include <cstdint>
#include <map>
#include <memory>
#include <string>
#include <utility>
#include <vector>

#include "core/sources/source.h"

namespace jollyrow {

/// Opens the store of a session's source, when the first save wants it.
using StoreOpener = std::function<Result<std::unique_ptr<Store>>()>;

struct Save {
    std::uint64_t serial = 0;
    RecordWrite request;
    std::uint64_t after = 0;  ///< the unanswered save of this cell, 0 = none: what it left is what is stored now
    /// Parts of the key with an unanswered save of theirs.
    std::vector<std::pair<std::size_t, std::uint64_t>> keyAfter;
};

class SaveQueue final {
  public:
    explicit SaveQueue(StoreOpener open) : open_(std::move(open)) {}
    Result<StoredRecord> write(Save save);

  private:
    StoreOpener open_;
    std::unique_ptr<Store> store_;
    std::map<std::uint64_t, Value>
        left_;  ///< by serial of a save, good or failed, what its cell held then; the newest ones
};

}  // namespace jollyrow
