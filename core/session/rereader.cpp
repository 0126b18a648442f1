// SPDX-License-Identifier: MIT
// Covered by tests/session/follow_test.cpp.
#include "core/session/rereader.h"

#include "core/sources/table_changes.h"

namespace jollyrow {

void Rereader::stop() {
    newest_.cancel();
    worker_.stop();
}

void Rereader::compare(std::shared_ptr<const Source> source, LoadRequest request, std::shared_ptr<const Table> before,
                       std::shared_ptr<const KeyIndex> keys, Compared compared) {
    const Latest::Turn turn = newest_.next();
    worker_.run([this, turn, source = std::move(source), request = std::move(request), before = std::move(before),
                 keys = std::move(keys), compared = std::move(compared)] {
        using Answer = Result<std::optional<Difference>>;
        auto loaded = source->load(request, turn.cancel);
        Answer answer = loaded ? Answer(std::nullopt) : Answer(loaded.error());
        if (loaded) {
            const auto after = std::make_shared<const KeyIndex>(*loaded);
            auto changes = changesBetween(keys ? *keys : KeyIndex(before), *after, kMostChanges, turn.cancel);
            if (changes) answer = std::optional(Difference{std::move(*changes), after});
        }
        post_([this, turn, compared, answer = std::move(answer)] {
            if (newest_.isNewest(turn)) compared(answer);
        });
    });
}

}  // namespace jollyrow
