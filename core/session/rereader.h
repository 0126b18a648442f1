// SPDX-License-Identifier: MIT
#pragma once
// Rereader: reads all records a second time, on a thread of its own, and tells in what they differ from those that are
// shown. For sources that say that something was changed and not what. Confined to the owner's thread but for that one.

#include <functional>
#include <memory>
#include <optional>
#include <vector>

#include "core/base/latest.h"
#include "core/base/post.h"
#include "core/base/worker.h"
#include "core/columns/key_index.h"
#include "core/sources/source.h"

namespace jollyrow {

class Rereader final {
  public:
    /// More changes than these are shown by a reload: carrying each along costs more.
    static constexpr std::size_t kMostChanges = 10'000;
    struct Difference {
        std::vector<ElsewhereChange>
            changes;  ///< of the table as it was loaded: what was edited since is not looked at
        std::shared_ptr<const KeyIndex> after;  ///< the later reading
    };
    /// nullopt: too many, or not to be told apart; an error: they could not be read.
    using Compared = std::function<void(const Result<std::optional<Difference>>&)>;

    explicit Rereader(Post post) : post_(std::move(post)) {}
    void stop();
    /// `keys` may be null: they are made then. A newer one takes an older one's place, whose answer does not come.
    void compare(std::shared_ptr<const Source> source, LoadRequest request, std::shared_ptr<const Table> before,
                 std::shared_ptr<const KeyIndex> keys, Compared compared);

  private:
    Post post_;
    Latest newest_;
    Worker worker_;
};

}  // namespace jollyrow
