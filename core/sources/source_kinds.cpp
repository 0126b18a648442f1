// SPDX-License-Identifier: MIT
// The registry of sources: one line a kind; the first that knows an address opens it.
#include <iterator>

#include "core/sources/postgres/pg_source.h"
#include "core/sources/source.h"
#include "core/sources/sqlite/sqlite_source.h"

namespace jollyrow {
namespace {

struct SourceKind {
    bool (*knows)(const std::string& address);
    Result<std::shared_ptr<const Source>> (*open)(const std::string& address);
    Result<std::unique_ptr<Store>> (*openStore)(const std::string& address);  ///< null where nothing can be written
};

constexpr SourceKind kKinds[] = {
    {postgres::knows, postgres::openSource, postgres::openStore},
    {[](const std::string&) { return true; }, sqlite::openSource, sqlite::openStore},
};

const SourceKind& kindOf(const std::string& address) {
    for (const SourceKind& kind : kKinds)
        if (kind.knows(address)) return kind;
    return kKinds[std::size(kKinds) - 1];
}

}  // namespace

Result<std::shared_ptr<const Source>> openSource(const std::string& path) { return kindOf(path).open(path); }

Result<std::unique_ptr<Store>> openStore(const std::string& path) {
    const auto open = kindOf(path).openStore;
    if (!open) return Error{ErrorCode::ReadOnly, "This source can be read and not written."};
    return open(path);
}

}  // namespace jollyrow
