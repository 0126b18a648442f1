// SPDX-License-Identifier: MIT
// Keys are whole numbers in rising order in most tables: then the column itself is the index. Others are found in a
// hash table of row numbers. Covered by tests/columns/key_index_test.cpp.
#include "core/columns/key_index.h"

#include <algorithm>
#include <functional>
#include <numeric>

namespace jollyrow {
namespace {

struct HashOf {
    std::size_t operator()(Empty) const { return 0; }
    std::size_t operator()(bool v) const { return v ? 1 : 2; }
    std::size_t operator()(std::int64_t v) const { return std::hash<std::int64_t>()(v); }
    std::size_t operator()(double v) const { return std::hash<double>()(v); }
    std::size_t operator()(const std::string& v) const { return std::hash<std::string>()(v); }
    std::size_t operator()(Date v) const { return std::hash<std::int64_t>()(v.days); }
    std::size_t operator()(Time v) const { return std::hash<std::int64_t>()(v.micros); }
    std::size_t operator()(Timestamp v) const { return std::hash<std::int64_t>()(v.micros); }
    std::size_t operator()(Instant v) const { return std::hash<std::int64_t>()(v.micros); }
    std::size_t operator()(const Bytes& v) const { return std::hash<std::string>()(v.data); }
    std::size_t operator()(const Unread& v) const { return std::hash<std::uint64_t>()(v.bytes); }
    std::size_t operator()(const Unfit& v) const { return std::hash<std::string>()(v.text); }
    // Numbers are equal whatever their scale.
    std::size_t operator()(const Decimal& v) const { return (*this)(WideDecimal{v.mantissa, v.scale}); }
    std::size_t operator()(const WideDecimal& v) const {
        return std::hash<std::int64_t>()(static_cast<std::int64_t>(unpadded(v).mantissa));
    }
};

}  // namespace

std::size_t hashOf(const RecordKey& key) {
    std::size_t hash = 0x9e3779b97f4a7c15ULL;
    for (const Value& part : key) {
        hash = (hash ^ std::visit(HashOf{}, part)) * 0xff51afd7ed558ccdULL;
        hash ^= hash >> 32;
    }
    return hash;
}

namespace {

bool isWhole(const RecordKey& key) {
    return !key.empty() && std::none_of(key.begin(), key.end(), [](const Value& part) { return isEmpty(part); });
}

/// Marks a slot whose key several records have.
constexpr std::uint32_t kSeveral = 0xFFFF'FFFF;

}  // namespace

const Column* KeyIndex::numbers() const {
    if (!table_->hasKeys()) return nullptr;
    const Column* column = table_->rowIds                  ? table_->rowIds.get()
                           : table_->keyFields.size() == 1 ? table_->column(table_->keyFields[0])
                                                           : nullptr;
    return column && column->type() == Type::Integer && column->emptyCount() == table_->spare ? column : nullptr;
}

KeyIndex::KeyIndex(std::shared_ptr<const Table> table) : table_(std::move(table)) {
    if (!table_->hasKeys()) return;
    if (const Column* column = numbers()) {
        rising_ = true;
        for (std::size_t i = 1; i < table_->loaded() && rising_; ++i)
            rising_ = column->integer(static_cast<SourceRow>(i - 1)) < column->integer(static_cast<SourceRow>(i));
        if (rising_) return;
    }
    std::size_t size = 64;
    while (size < table_->loaded() * 2) size *= 2;
    slots_.assign(size, 0);
    std::vector<std::uint32_t> several;
    for (std::size_t i = 0; i < table_->loaded(); ++i) {
        const RecordKey key = table_->key(static_cast<SourceRow>(i));
        if (!isWhole(key)) continue;
        std::size_t at = hashOf(key) & (size - 1);
        while (slots_[at] != 0 && table_->key(static_cast<SourceRow>(slots_[at] - 1)) != key)
            at = (at + 1) & (size - 1);
        if (slots_[at] != 0)
            several.push_back(static_cast<std::uint32_t>(at));
        else
            slots_[at] = static_cast<std::uint32_t>(i + 1);
    }
    // Kept in their places until all are in: a free slot would end a search too early.
    for (const std::uint32_t at : several) slots_[at] = kSeveral;
}

std::optional<SourceRow> KeyIndex::findNumber(std::int64_t key, std::size_t from) const {
    const Column& column = *numbers();
    std::size_t low = from, high = table_->loaded();
    while (low < high) {
        const std::size_t middle = low + (high - low) / 2;
        column.integer(static_cast<SourceRow>(middle)) < key ? low = middle + 1 : high = middle;
    }
    if (low == table_->loaded() || column.integer(static_cast<SourceRow>(low)) != key) return std::nullopt;
    return static_cast<SourceRow>(low);
}

std::optional<SourceRow> KeyIndex::find(const RecordKey& key) const {
    if (!isWhole(key) || table_->loaded() == 0) return std::nullopt;
    if (rising_) {
        const auto* number = key.size() == 1 ? std::get_if<std::int64_t>(&key[0]) : nullptr;
        return number ? findNumber(*number, 0) : std::nullopt;
    }
    if (slots_.empty()) return std::nullopt;
    std::size_t at = hashOf(key) & (slots_.size() - 1);
    for (; slots_[at] != 0; at = (at + 1) & (slots_.size() - 1)) {
        if (slots_[at] == kSeveral) continue;
        const auto row = static_cast<SourceRow>(slots_[at] - 1);
        if (table_->key(row) == key) return row;
    }
    return std::nullopt;
}

std::vector<std::uint32_t> movesBetween(const KeyIndex& from, const KeyIndex& to) {
    std::vector<std::uint32_t> moves(from.table_->rows, raw(kNoRow));
    if (from.table_->loaded() == to.table_->loaded() && from.table_->rowsIdentity() == to.table_->rowsIdentity()) {
        std::iota(moves.begin(), moves.end(), 0U);
        return moves;
    }
    if (!from.table_->hasKeys() || !to.table_->hasKeys()) return moves;
    if (from.rising_ && to.rising_) {
        const Column &before = *from.numbers(), &after = *to.numbers();
        std::size_t at = 0;
        for (std::size_t i = 0; i < from.table_->loaded(); ++i) {
            const std::int64_t key = before.integer(static_cast<SourceRow>(i));
            while (at < to.table_->loaded() && after.integer(static_cast<SourceRow>(at)) < key) ++at;
            if (at < to.table_->loaded() && after.integer(static_cast<SourceRow>(at)) == key)
                moves[i] = static_cast<std::uint32_t>(at);
        }
        return moves;
    }
    for (std::size_t i = 0; i < from.table_->loaded(); ++i)
        if (const auto row = to.find(from.table_->key(static_cast<SourceRow>(i)))) moves[i] = raw(*row);
    return moves;
}

}  // namespace jollyrow
