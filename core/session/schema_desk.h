// SPDX-License-Identifier: MIT
#pragma once
// SchemaDesk: the schemas that a session needs, read on a thread of its own: that of its records, and those of the
// tables they point to, which are kept. The owner's thread waits for them no longer than longestWait() in all, each
// time that it is called; what is not there by then is told of when it is. Confined to that thread.

#include <functional>
#include <map>
#include <memory>
#include <string>
#include <vector>

#include "core/base/cancel.h"
#include "core/base/in_time.h"
#include "core/base/latest.h"
#include "core/base/post.h"
#include "core/base/result.h"
#include "core/base/worker.h"
#include "core/sources/source.h"

namespace jollyrow {

class SchemaDesk final {
  public:
    /// `news`: a table that was asked for and was not there in time is known now.
    SchemaDesk(Post post, std::function<void()> news) : post_(std::move(post)), news_(std::move(news)) {}
    void stop();

    using Read = std::function<Result<TableSchema>(const Cancel&)>;
    using Late = std::function<void(const Result<TableSchema>&)>;
    /// The schema of the records. Takes the place of what was asked for before, whose `late` is not called any more.
    std::optional<Result<TableSchema>> ask(Read read, Late late);
    void cancel() { newest_.cancel(); }

    /// Other tables are those of this source now, which may have changed since they were read.
    void forget(std::shared_ptr<const Source> source);
    /// Another table of the source. NotFound and the like as the source says; Locked while it is still being read.
    Result<TableSchema> schemaOf(const std::string& table);
    /// `schema` with the fields of other tables that paths name ("vessel.owner.name"). Those that lead nowhere, or to
    /// tables that are not known yet, add nothing.
    TableSchema withRelated(TableSchema schema, const std::vector<std::string>& paths);

  private:
    Result<TableSchema> keep(const std::string& table, const Result<TableSchema>& schema);
    template <class Waiting>
    auto waiting(const Waiting& wait);

    Post post_;
    std::function<void()> news_;
    std::chrono::nanoseconds waited_{};  ///< since the owner's thread was called
    Latest newest_;
    Cancel others_;  ///< of the reads of other tables
    std::shared_ptr<const Source> source_;
    std::map<std::string, Result<TableSchema>> known_;  ///< Locked: being read
    Worker worker_;
};

}  // namespace jollyrow
