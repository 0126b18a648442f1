// SPDX-License-Identifier: MIT
#include "core/sources/batch.h"

#include <algorithm>
#include <numeric>

namespace jollyrow {

WriteOrder inOrder(std::span<const RecordWrite> records) {
    WriteOrder order(records.size());
    std::iota(order.begin(), order.end(), 0);
    return order;
}

WriteOrder inTurns(std::span<const RecordWrite> records, std::array<RecordChange, 3> turns) {
    std::array<WriteOrder, 3> parts;
    for (std::size_t i = 0; i < records.size(); ++i)
        for (std::size_t turn = 0; turn < turns.size(); ++turn)
            if (records[i].change == turns[turn]) parts[turn].push_back(i);
    for (std::size_t turn = 1; turn < parts.size(); ++turn)
        parts[0].insert(parts[0].end(), parts[turn].begin(), parts[turn].end());
    return std::move(parts[0]);
}

bool isStored(const Outcome& outcome) { return std::holds_alternative<StoredRecord>(outcome); }

bool areStored(const std::vector<Outcome>& outcomes) { return std::all_of(outcomes.begin(), outcomes.end(), isStored); }

RecordWrite withKey(const RecordWrite& record, const std::vector<Outcome>& outcomes) {
    RecordWrite keyed = record;
    if (record.madeBy && *record.madeBy < outcomes.size())
        if (const auto* made = std::get_if<StoredRecord>(&outcomes[*record.madeBy])) keyed.key = made->key;
    return keyed;
}

void takeBack(std::vector<Outcome>& outcomes) {
    for (Outcome& outcome : outcomes)
        if (isStored(outcome))
            outcome = Problem{ErrorCode::Cancelled, {}, "Not saved, because another record could not be."};
}

std::string likeContaining(std::string_view text) {
    std::string pattern = "%";
    for (const char c : text) {
        if (c == '%' || c == '_' || c == '\\') pattern += '\\';
        pattern += c;
    }
    return pattern + "%";
}

}  // namespace jollyrow
