// SPDX-License-Identifier: MIT
#pragma once
// ColumnBuilder: appends chunks in bound order and hands out the Column built so far at any time, without copying the
// values (see shared_span.h). Confined to one thread at a time.

#include <cstdint>
#include <memory>
#include <optional>
#include <vector>

#include "core/columns/column.h"
#include "core/columns/column_chunk.h"
#include "core/columns/schema.h"

namespace jollyrow {

class ColumnBuilder final {
  public:
    ColumnBuilder(Type type, int scale);
    /// With the column's openScale (Column::isUnpadded).
    explicit ColumnBuilder(const FieldSchema& field);
    /// A text column whose chunks hold codes into this list of distinct texts, which stays as it is (labels of a
    /// related table).
    explicit ColumnBuilder(TextArena distinct);
    /// A hint; wrong ones cost a copy, not correctness.
    void reserve(std::size_t rows);
    /// The column holds how long binary values are, in decimal digits (Column::isUnread).
    void setUnread(bool unread) { unread_ = unread; }
    void setUnpadded(bool unpadded) { unpadded_ = unpadded; }
    /// Requires: chunk.type == the builder's.
    void append(const ColumnChunk& chunk);
    /// The column of all rows appended so far; later appends do not change it. O(rows / 64).
    std::shared_ptr<const Column> share() const;
    /// Decides again, now that all rows are known, whether texts repeat enough for a dictionary: the first rows of a
    /// column may all be different. About 200 ms for a million rows that do; a sample tells the others apart.
    void settle();
    std::size_t size() const { return rows_; }
    /// Bytes of the values appended so far.
    std::size_t byteSize() const {
        return bytes1_.size() + bytes4_.size() * 4 + bytes8_.size() * 8 + bytes16_.size() * 16 + reals_.size() * 8 +
               codes_.size() * 4 + arenaBytes_.size() + arenaOffsets_.size() * 8;
    }
    /// True when the values hardly repeat: ask chunks for an arena.
    bool prefersArena() const { return isBytes(type_) && !usesDictionary_; }
    bool hasGivenTexts() const { return given_.has_value(); }

  private:
    void appendIntegers(const ColumnChunk& chunk);
    void appendWides(const ColumnChunk& chunk);
    void appendText(const ColumnChunk& chunk);
    void dropDictionary();
    void appendArena(std::string_view text);
    void appendValidity(const ColumnChunk& chunk);

    Type type_;
    int scale_;
    bool unpadded_ = false;
    bool unread_ = false;
    std::size_t rows_ = 0;
    std::size_t expectedRows_ = 0;
    std::size_t emptyCount_ = 0;
    int width_ = 0;  ///< bytes an integer takes just now: 1, 4, 8 or, of a Decimal, 16
    GrowBuffer<std::int8_t> bytes1_;
    GrowBuffer<std::int32_t> bytes4_;
    GrowBuffer<std::int64_t> bytes8_;
    GrowBuffer<Int128> bytes16_;
    GrowBuffer<double> reals_;
    std::optional<TextArena> given_;  ///< the distinct texts, when they were given
    bool usesDictionary_ = true;
    StringTable table_;
    GrowBuffer<std::uint32_t> codes_;
    GrowBuffer<char> arenaBytes_;  ///< distinct strings, or all of them
    GrowBuffer<std::uint64_t> arenaOffsets_;
    std::vector<std::uint64_t> validity_;  ///< copied at share(): its last word is still being written
    std::vector<Misfit> misfits_;
};

}  // namespace jollyrow
