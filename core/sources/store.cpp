// SPDX-License-Identifier: MIT
#include <fmt/format.h>

#include "core/formats/text_format.h"
#include "core/sources/source.h"

namespace jollyrow {

std::string words(const Conflict& conflict, const TableSchema& schema) {
    if (conflict.isGone()) return "This record was deleted meanwhile.";
    const Conflict::Field& first = conflict.fields.front();
    std::string stored;
    appendDisplay(stored, first.stored, {});
    return fmt::format("Somebody changed {} to {} meanwhile.", schema.field(first.field).name,
                       stored.empty() ? "empty" : stored);
}

Result<StoredRecord> writeOne(Store& store, const RecordWrite& record) {
    auto outcomes = store.write({&record, 1}, Atomicity::EachRecord, Cancel());
    if (!outcomes) return outcomes.error();
    Outcome& outcome = outcomes->front();
    if (const auto* conflict = std::get_if<Conflict>(&outcome))
        return Error{ErrorCode::Conflict, words(*conflict, record.schema)};
    if (const auto* problem = std::get_if<Problem>(&outcome)) return Error{problem->code, problem->message};
    return std::get<StoredRecord>(std::move(outcome));
}

}  // namespace jollyrow
