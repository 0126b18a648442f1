// SPDX-License-Identifier: MIT
#pragma once
// ColumnBuilder: appends chunks in bound order and hands out the Column built so far at any time, without copying the
// values (see shared_span.h). Confined to one thread at a time.

#include <cstdint>
#include <memory>
#include <vector>

#include "core/columns/column.h"
#include "core/columns/column_chunk.h"

namespace jollyrow {

class ColumnBuilder final {
  public:
    ColumnBuilder(Type type, int scale);
    /// A hint; wrong ones cost a copy, not correctness.
    void reserve(std::size_t rows);
    /// Requires: chunk.type == the builder's.
    void append(const ColumnChunk& chunk);
    /// The column of all rows appended so far; later appends do not change it. O(rows / 64).
    std::shared_ptr<const Column> share() const;
    /// Decides again, now that all rows are known, whether texts repeat enough for a dictionary: the first rows of a
    /// column may all be different. About 200 ms for a million rows that do; a sample tells the others apart.
    void settle();
    std::size_t size() const { return rows_; }
    /// True when the values hardly repeat: ask chunks for an arena.
    bool prefersArena() const { return isBytes(type_) && !usesDictionary_; }

  private:
    void appendIntegers(const ColumnChunk& chunk);
    void appendText(const ColumnChunk& chunk);
    void dropDictionary();
    void appendArena(std::string_view text);
    void appendValidity(const ColumnChunk& chunk);

    Type type_;
    int scale_;
    std::size_t rows_ = 0;
    std::size_t expectedRows_ = 0;
    std::size_t emptyCount_ = 0;
    int width_ = 0;  ///< bytes an integer takes just now: 1, 4 or 8
    GrowBuffer<std::int8_t> bytes1_;
    GrowBuffer<std::int32_t> bytes4_;
    GrowBuffer<std::int64_t> bytes8_;
    GrowBuffer<double> reals_;
    bool usesDictionary_ = true;
    StringTable table_;
    GrowBuffer<std::uint32_t> codes_;
    GrowBuffer<char> arenaBytes_;  ///< distinct strings, or all of them
    GrowBuffer<std::uint64_t> arenaOffsets_;
    std::vector<std::uint64_t> validity_;  ///< copied at share(): its last word is still being written
    std::vector<Misfit> misfits_;
};

}  // namespace jollyrow
