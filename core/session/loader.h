// SPDX-License-Identifier: MIT
#pragma once
// Loader: reads records, and a schema that has to be waited for, on a thread of its own. Confined to the owner's thread
// but for that one.

#include <cstdint>
#include <functional>
#include <memory>

#include "core/base/latest.h"
#include "core/base/post.h"
#include "core/base/worker.h"
#include "core/sources/source.h"

namespace jollyrow {

class Loader final {
  public:
    struct Hooks {
        /// Records of the load with this number. Whole: all of them; the load ends when their view is there, by
        /// end().
        std::function<void(std::shared_ptr<const Table>, const LoadProgress&, std::uint64_t load, bool whole)>
            onRecords;
        std::function<void(const LoadProgress&)> onProgress;
        std::function<void(const Result<void>&)> onEnd;
    };
    Loader(Post post, Hooks hooks) : post_(std::move(post)), hooks_(std::move(hooks)) {}
    void stop();

    enum class Parts {
        Shown,  ///< records are handed over as they come
        Kept,   ///< only all of them at once
    };
    void begin(std::shared_ptr<const Source> source, LoadRequest request, Parts parts);
    using SchemaCame = std::function<void(const Result<TableSchema>&)>;
    /// A schema is awaited before records can be read: for whom it comes too late to. Call what is returned with it:
    /// `done` when it is one, else the load ends.
    SchemaCame await(std::function<void(const TableSchema&)> done);
    /// Ends the load, and tells so.
    void end(const Result<void>& result);
    /// Ends it silently: another source is opened.
    void forget() { loading_ = whole_ = false; }

    void cancel() { newest_.cancel(); }
    bool isLoading() const { return loading_; }
    /// All records are here, their view is not yet.
    bool isWhole() const { return whole_; }
    const LoadProgress& progress() const { return progress_; }
    /// The number of the load that is under way, or was last.
    std::uint64_t number() const { return number_; }

  private:
    bool isMeant(const Latest::Turn& turn) const { return newest_.isNewest(turn) && loading_; }

    Post post_;
    Hooks hooks_;
    Latest newest_;
    std::uint64_t number_ = 0;
    bool loading_ = false, whole_ = false;
    LoadProgress progress_;
    Worker worker_;
};

}  // namespace jollyrow
