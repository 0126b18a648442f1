// SPDX-License-Identifier: MIT
#pragma once
// Column: one column of a Table, frozen. A contiguous typed array plus validity bits; text either as codes into a
// dictionary or as one arena. Immutable, so any thread may read it. Made by ColumnBuilder only.

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

#include "core/base/indexes.h"
#include "core/columns/shared_span.h"
#include "core/columns/type.h"
#include "core/columns/value.h"

namespace jollyrow {

/// Strings one after the other; string i is bytes[offsets[i] .. offsets[i + 1]).
struct TextArena {
    SharedSpan<char> bytes;
    SharedSpan<std::uint64_t> offsets;  ///< one more than there are strings
    std::size_t size() const { return offsets.empty() ? 0 : offsets.size() - 1; }
    std::string_view at(std::size_t i) const { return {bytes.data() + offsets[i], offsets[i + 1] - offsets[i]}; }
};

/// Distinct strings and one code a row. Empty rows have code 0.
struct TextDictionary {
    SharedSpan<std::uint32_t> codes;
    TextArena distinct;
};

/// A stored value that is not of the column's type ('abc' in a DATE column). Its place holds nothing that kernels could
/// read (its validity bit is off), and it is not empty: rules see an error, people what is stored.
struct Misfit {
    std::uint32_t row = 0;
    std::string text;
    Stored stored = Stored::Text;
};

class Column final {
  public:
    using Storage = std::variant<SharedSpan<std::int8_t>, SharedSpan<std::int32_t>, SharedSpan<std::int64_t>,
                                 SharedSpan<double>, TextDictionary, TextArena, SharedSpan<Int128>>;

    Type type() const { return type_; }
    /// Decimals of a Decimal column, else 0.
    int scale() const { return scale_; }
    /// True when the scale is only the largest that a value needed: values are written without zeros at their end.
    bool isUnpadded() const { return unpadded_; }
    std::size_t size() const { return size_; }
    /// Places without a value of the type: empties, and misfits with them.
    std::size_t emptyCount() const { return emptyCount_; }
    /// No value of the type stands here; misfit() tells whether nothing does.
    bool isEmpty(SourceRow row) const {
        return emptyCount_ != 0 && ((validity_[raw(row) >> 6] >> (raw(row) & 63)) & 1) == 0;
    }
    /// Requires: isIntegral(type()), not empty, not isWide(). Decimal: the mantissa. Date: days. Time, Timestamp:
    /// microseconds.
    std::int64_t integer(SourceRow row) const;
    /// True when the mantissas of a Decimal column need up to 128 bits.
    bool isWide() const { return std::holds_alternative<SharedSpan<Int128>>(storage_); }
    /// Requires: type() == Type::Decimal, not empty. Of any width.
    WideDecimal decimal(SourceRow row) const;
    /// Requires: type() == Type::Real, not empty.
    double real(SourceRow row) const { return std::get<SharedSpan<double>>(storage_)[raw(row)]; }
    /// Requires: isBytes(type()), not empty. Valid as long as this column.
    std::string_view text(SourceRow row) const;
    /// True when a Binary column holds how long its values are, which stay in the database (FieldSchema::unread).
    bool isUnread() const { return unread_; }
    /// Requires: isUnread(), not empty.
    std::uint64_t unreadBytes(SourceRow row) const;
    /// Boxed; for edges. O(1) plus the copy of a text.
    Value value(SourceRow row) const;
    /// What is stored when it does not fit the type. O(log misfits).
    std::optional<std::string_view> misfit(SourceRow row) const;
    std::size_t misfitCount() const { return misfits_ ? misfits_->size() : 0; }
    /// All of them, by row.
    std::span<const Misfit> misfits() const {
        return misfits_ ? std::span<const Misfit>(*misfits_) : std::span<const Misfit>{};
    }
    /// Those of rows in [begin, begin + count). O(log misfits).
    std::span<const Misfit> misfits(std::size_t begin, std::size_t count) const;

    /// For kernels: visit the storage once, then run over spans.
    const Storage& storage() const { return storage_; }
    /// One bit a row, 1 = filled; empty span when nothing is empty.
    std::span<const std::uint64_t> validity() const {
        return emptyCount_ ? validity_.span() : std::span<const std::uint64_t>{};
    }
    /// Bytes held, shared blocks counted whole. For status lines and tests.
    std::size_t byteSize() const;
    /// Identifies the data: equal ids mean equal contents. Key for caches of ranks.
    std::uint64_t id() const { return id_; }

  private:
    friend class ColumnBuilder;
    Type type_ = Type::Text;
    int scale_ = 0;
    bool unpadded_ = false;
    bool unread_ = false;
    std::size_t size_ = 0;
    std::size_t emptyCount_ = 0;
    Storage storage_;
    SharedSpan<std::uint64_t> validity_;
    std::shared_ptr<const std::vector<Misfit>> misfits_;
    std::uint64_t id_ = 0;
};

}  // namespace jollyrow
