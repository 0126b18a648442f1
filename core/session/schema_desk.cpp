// SPDX-License-Identifier: MIT
// Covered by tests/session/schema_desk_test.cpp.
#include "core/session/schema_desk.h"

#include <algorithm>

#include <fmt/format.h>

#include "core/sources/related_fields.h"

namespace jollyrow {

void SchemaDesk::stop() {
    newest_.cancel();
    others_.request();
    worker_.stop();
}

/// Runs what waits so long at most, and counts how long it did.
template <class Waiting>
auto SchemaDesk::waiting(const Waiting& wait) {
    if (waited_ == waited_.zero()) post_([this] { waited_ = {}; });
    const auto begun = std::chrono::steady_clock::now();
    auto answer = wait(std::max<std::chrono::nanoseconds>(longestWait() - waited_, std::chrono::nanoseconds{}));
    waited_ +=
        std::max<std::chrono::nanoseconds>(std::chrono::steady_clock::now() - begun, std::chrono::nanoseconds{1});
    return answer;
}

std::optional<Result<TableSchema>> SchemaDesk::ask(Read read, Late late) {
    const Latest::Turn turn = newest_.next();
    return waiting([&](std::chrono::nanoseconds wait) {
        return inTime<Result<TableSchema>>(
            worker_, post_, wait, [read = std::move(read), turn] { return read(turn.cancel); },
            [this, turn, late = std::move(late)](const Result<TableSchema>& schema) {
                if (newest_.isNewest(turn)) late(schema);
            });
    });
}

void SchemaDesk::forget(std::shared_ptr<const Source> source) {
    others_.request();
    others_ = Cancel();
    source_ = std::move(source);
    known_.clear();
}

Result<TableSchema> SchemaDesk::schemaOf(const std::string& table) {
    if (!source_) return Error{ErrorCode::NotFound, "Nothing is open."};
    if (const auto known = known_.find(table); known != known_.end()) return known->second;
    const Error soon{ErrorCode::Locked, fmt::format("The columns of {} are still being read.", table)};
    known_.insert_or_assign(table, soon);
    const auto read = waiting([&](std::chrono::nanoseconds wait) {
        return inTime<Result<TableSchema>>(
            worker_, post_, wait,
            [source = source_, table, cancel = others_] {
                return source->schema({table, {}, {}}, cancel);
            },
            [this, table, cancel = others_](const Result<TableSchema>& schema) {
                if (cancel.requested()) return;
                (void)keep(table, schema);
                news_();
            });
    });
    return read ? keep(table, *read) : soon;
}

/// What is locked is asked for again next time.
Result<TableSchema> SchemaDesk::keep(const std::string& table, const Result<TableSchema>& schema) {
    if (!schema && schema.error().code == ErrorCode::Locked)
        known_.erase(table);
    else
        known_.insert_or_assign(table, schema);
    return schema;
}

TableSchema SchemaDesk::withRelated(TableSchema schema, const std::vector<std::string>& paths) {
    // Of what cannot be read nothing is added, which is what the error of a table would come to.
    (void)addRelated(schema, paths, [this](const std::string& table) -> Result<TableSchema> {
        auto found = schemaOf(table);
        return found ? found : Result<TableSchema>(Error{ErrorCode::NotFound, found.error().message});
    });
    return schema;
}

}  // namespace jollyrow
