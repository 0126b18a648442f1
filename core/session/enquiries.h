// SPDX-License-Identifier: MIT
#pragma once
// Enquiries: what is asked beside the view: finding, figures, spreads, tables, look-ups. Each on one worker, each newer
// one in the place of an older one of its kind. Confined to the owner's thread.

#include <functional>
#include <memory>
#include <type_traits>
#include <utility>

#include "core/base/latest.h"
#include "core/base/post.h"
#include "core/base/result.h"
#include "core/base/worker.h"

namespace jollyrow {

class Enquiries final {
  public:
    explicit Enquiries(Post post) : post_(std::move(post)) {}
    void stop();

    enum class Kind { Find, Figures, Origin, SummaryTable, LookUp, Dependents, Presence, Cells };
    /// Runs `work(cancel)` on the worker and hands its result to `done` on the owner's thread, unless a newer enquiry
    /// of the kind was made meanwhile.
    template <class Work, class Done>
    void ask(Kind kind, Work work, Done done) {
        Latest& latest = latest_[static_cast<std::size_t>(kind)];
        worker_.run([this, &latest, turn = latest.next(), work = std::move(work), done = std::move(done)] {
            if (turn.cancel.requested()) return;
            post_([&latest, turn, done, answer = work(turn.cancel)] {
                if (latest.isNewest(turn)) done(answer);
            });
        });
    }
    /// One that has its answer whatever is asked after it. `work` may take a Cancel, which the end requests.
    template <class Work, class Done>
    void ask(Work work, Done done) {
        worker_.run([this, work = std::move(work), done = std::move(done), ending = ending_] {
            auto answer = [&] {
                if constexpr (std::is_invocable_v<const Work&, const Cancel&>)
                    return work(ending);
                else
                    return work();
            }();
            post_([done, answer = std::move(answer)] { done(answer); });
        });
    }

  private:
    static constexpr std::size_t kKinds = 8;
    Post post_;
    Latest latest_[kKinds];
    Cancel ending_;
    Worker worker_;
};

}  // namespace jollyrow
