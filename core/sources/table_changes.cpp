// SPDX-License-Identifier: MIT
// Covered by tests/sources/table_changes_test.cpp.
#include "core/sources/table_changes.h"

#include <bit>

namespace jollyrow {
namespace {

constexpr std::uint32_t kNowhere = raw(kNoRow);

bool isWholeNumber(Type type) {
    switch (type) {
        case Type::Boolean:
        case Type::Integer:
        case Type::Date:
        case Type::Time:
        case Type::Timestamp:
        case Type::Instant: return true;
        default: return false;
    }
}

/// Of one field: whether two records have the same in it. Boxing each value would take most of the time.
class FieldPair {
  public:
    FieldPair(FieldIndex field, const Column& a, const Column& b)
        : field_(field),
          a_(a),
          b_(b),
          hasMisfits_(a.misfitCount() + b.misfitCount() > 0),
          isWhole_(isWholeNumber(a.type())) {}
    FieldIndex field() const { return field_; }
    Value now(SourceRow row) const { return b_.value(row); }
    bool isSame(SourceRow before, SourceRow after) const {
        if (hasMisfits_) return a_.value(before) == b_.value(after);
        const bool isEmptyBefore = a_.isEmpty(before), isEmptyAfter = b_.isEmpty(after);
        if (isEmptyBefore || isEmptyAfter) return isEmptyBefore == isEmptyAfter;
        if (isWhole_) return a_.integer(before) == b_.integer(after);
        if (isBytes(a_.type())) return a_.text(before) == b_.text(after);
        if (a_.type() == Type::Real)
            return std::bit_cast<std::uint64_t>(a_.real(before)) == std::bit_cast<std::uint64_t>(b_.real(after));
        return a_.value(before) == b_.value(after);
    }

  private:
    FieldIndex field_;
    const Column &a_, &b_;
    bool hasMisfits_, isWhole_;
};

std::vector<FieldPair> fieldPairs(const Table& before, const Table& after) {
    std::vector<FieldPair> pairs;
    for (std::size_t i = 0; i < before.schema.storedFields(); ++i) {
        const auto field = static_cast<FieldIndex>(i);
        const Column *a = before.column(field), *b = after.column(field);
        if (a && b) pairs.emplace_back(field, *a, *b);
    }
    return pairs;
}

/// Without computed fields, which follow.
bool haveSameFields(const TableSchema& a, const TableSchema& b) {
    const std::size_t count = a.storedFields();
    return count == b.storedFields() &&
           std::equal(a.fields.begin(), a.fields.begin() + static_cast<std::ptrdiff_t>(count), b.fields.begin());
}

}  // namespace

std::optional<std::vector<ElsewhereChange>> changesBetween(const KeyIndex& before, const KeyIndex& after,
                                                           std::size_t most, const Cancel& cancel) {
    const Table &from = *before.table(), &to = *after.table();
    if (!haveSameFields(from.schema, to.schema) || !from.hasKeys() || !to.hasKeys()) return std::nullopt;
    const std::vector<FieldPair> pairs = fieldPairs(from, to);
    const std::vector<std::uint32_t> moves = movesBetween(before, after);
    std::vector<bool> isKnown(to.loaded(), false);
    std::vector<ElsewhereChange> changes;
    constexpr std::size_t kLook = 4096;
    for (std::size_t i = 0; i < from.loaded(); ++i) {
        if (i % kLook == 0 && cancel.requested()) return std::nullopt;
        const auto row = static_cast<SourceRow>(i);
        const std::uint32_t there = i < moves.size() ? moves[i] : kNowhere;
        ElsewhereChange change;
        if (there == kNowhere) {
            change.isGone = true;
        } else {
            isKnown[there] = true;
            for (const FieldPair& pair : pairs)
                if (!pair.isSame(row, static_cast<SourceRow>(there)))
                    change.values.emplace_back(pair.field(), pair.now(static_cast<SourceRow>(there)));
            if (change.values.empty()) continue;
        }
        if (changes.size() == most) return std::nullopt;
        change.key = from.key(row);
        if (change.isGone && !before.find(change.key)) return std::nullopt;  // one of several of this key
        changes.push_back(std::move(change));
    }
    for (std::size_t i = 0; i < isKnown.size(); ++i) {
        if (isKnown[i]) continue;
        if (changes.size() == most) return std::nullopt;
        ElsewhereChange& change = changes.emplace_back();
        change.key = to.key(static_cast<SourceRow>(i));
        if (!after.find(change.key)) return std::nullopt;
        for (const FieldPair& pair : pairs)
            change.values.emplace_back(pair.field(), pair.now(static_cast<SourceRow>(i)));
    }
    return changes;
}

}  // namespace jollyrow
