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

bool needsEarlier(const RecordWrite& record) { return record.madeBy || record.bringsBackOf; }

RecordWrite withEarlier(const RecordWrite& record, const std::vector<Outcome>& outcomes) {
    RecordWrite whole = record;
    const auto stored = [&](const std::optional<std::size_t>& at) {
        return at && *at < outcomes.size() ? std::get_if<StoredRecord>(&outcomes[*at]) : nullptr;
    };
    if (const auto* made = stored(record.madeBy)) whole.key = made->key;
    if (const auto* gone = stored(record.bringsBackOf)) whole.bringsBack = gone->takenAlong;
    return whole;
}

std::optional<WriteOrder> withGoneEarlier(std::span<const RecordWrite> records, const WriteOrder& order,
                                          const std::vector<Outcome>& outcomes) {
    const auto tookOf = [&](std::size_t i, const std::string& table) {
        const auto* stored = std::get_if<StoredRecord>(&outcomes[i]);
        return stored && stored->takenAlong && stored->takenAlong->isOf(table);
    };
    std::size_t before = order.size();
    WriteOrder gone;
    for (std::size_t at = 0; at < order.size(); ++at) {
        const auto* conflict = std::get_if<Conflict>(&outcomes[order[at]]);
        if (!conflict || !conflict->isGone() || records[order[at]].change != RecordChange::Delete) continue;
        const auto end = order.begin() + static_cast<std::ptrdiff_t>(at);
        const auto taker =
            std::find_if(order.begin(), end, [&](std::size_t i) { return tookOf(i, records[order[at]].schema->name); });
        if (taker == end) continue;
        before = std::min(before, static_cast<std::size_t>(taker - order.begin()));
        gone.insert(gone.begin(), order[at]);  // one that points to another mostly comes behind it
    }
    if (gone.empty()) return std::nullopt;
    WriteOrder next(order.begin(), order.begin() + static_cast<std::ptrdiff_t>(before));
    next.insert(next.end(), gone.begin(), gone.end());
    for (std::size_t at = before; at < order.size(); ++at)
        if (std::find(gone.begin(), gone.end(), order[at]) == gone.end()) next.push_back(order[at]);
    return next;
}

Problem tooMuchWithIt() {
    return {ErrorCode::Refused, {}, "What is deleted with it is too much to be kept, so it cannot come back."};
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
