// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_extending.cpp.
#include "grid/api/extending.h"

namespace jollyrow {

void SaveReply::stored(const std::map<std::size_t, RecordKey>& keys) const {
    std::vector<StoredRecord> records(keys.empty() ? 0 : keys.rbegin()->first + 1);
    for (const auto& [place, key] : keys) records[place].key = key;
    answer_.stored(std::move(records));
}

void SaveReply::refuse(const QString& message, const QString& field, std::size_t record) const {
    const auto index = field.isEmpty() ? std::nullopt : schema_->find(field.toStdString());
    answer_.refuse(message.toStdString(), index ? std::vector{*index} : std::vector<FieldIndex>{}, record);
}

}  // namespace jollyrow
