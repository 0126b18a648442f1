// SPDX-License-Identifier: MIT
#include "core/session/loader.h"

#include <chrono>

namespace jollyrow {

void Loader::stop() {
    newest_.cancel();
    worker_.stop();
}

void Loader::begin(std::shared_ptr<const Source> source, LoadRequest request, Parts parts) {
    const Latest::Turn turn = newest_.next();
    number_ = turn.number;
    loading_ = true;
    whole_ = false;
    progress_ = {};
    request.onPart = [this, turn, parts](std::shared_ptr<const Table> part, const LoadProgress& progress) {
        post_([this, turn, parts, part = std::move(part), progress] {
            if (!isMeant(turn)) return;
            if (parts == Parts::Shown) hooks_.onRecords(part, progress, turn.number, false);
            progress_ = progress;
            hooks_.onProgress(progress);
        });
    };
    post_([this, turn] {
        if (isMeant(turn) && progress_.rows == 0) hooks_.onProgress(progress_);
    });
    worker_.run([this, turn, request = std::move(request), source = std::move(source)] {
        const auto begun = std::chrono::steady_clock::now();
        auto loaded = source->load(request, turn.cancel);
        const double milliseconds =
            std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - begun).count();
        post_([this, turn, loaded = std::move(loaded), milliseconds] {
            if (!newest_.isNewest(turn)) return;
            if (!loaded) return end(loaded.error());
            const auto rows = static_cast<std::int64_t>((*loaded)->rows);
            progress_ = {rows, rows, milliseconds, rows};
            whole_ = true;
            hooks_.onRecords(*loaded, progress_, turn.number, true);
        });
    });
}

Loader::SchemaCame Loader::await(std::function<void(const TableSchema&)> done) {
    const Latest::Turn turn = newest_.next();
    number_ = turn.number;
    loading_ = true;
    progress_ = {};
    return [this, turn, done = std::move(done)](const Result<TableSchema>& schema) {
        if (!newest_.isNewest(turn)) return;
        if (turn.cancel.requested()) return end(Error{ErrorCode::Cancelled, "Loading was cancelled."});
        schema ? done(*schema) : end(schema.error());
    };
}

void Loader::end(const Result<void>& result) {
    loading_ = whole_ = false;
    hooks_.onEnd(result);
}

}  // namespace jollyrow
