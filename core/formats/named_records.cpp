// SPDX-License-Identifier: MIT
// Covered by tests/formats/named_records_test.cpp.
#include "core/formats/named_records.h"

#include <fmt/format.h>

#include "core/formats/plain_label.h"
#include "core/formats/text_format.h"

namespace jollyrow {

NamedRecords::NamedRecords(std::vector<LookUpEntry> entries) : entries_(std::move(entries)) {
    for (std::size_t i = 0; i < entries_.size(); ++i) {
        byLabel_.emplace(entries_[i].label, i);
        if (std::string plain = plainLabel(entries_[i].label); plain != entries_[i].label)
            byLabel_.emplace(std::move(plain), i);
        std::string key;
        appendPlain(key, entries_[i].key);
        byKey_.emplace(std::move(key), i);
    }
}

Result<LookUpEntry> NamedRecords::called(const std::string& name) const {
    for (const auto* names : {&byLabel_, &byKey_}) {
        const auto [first, end] = names->equal_range(name);
        if (first == end) continue;
        if (std::next(first) != end)
            return Error{ErrorCode::InvalidInput,
                         fmt::format("Several records are called \"{}\". Choose one in the cell.", name)};
        return entries_[first->second];
    }
    return Error{ErrorCode::InvalidInput, fmt::format("There is no record called \"{}\".", name)};
}

}  // namespace jollyrow
