// SPDX-License-Identifier: MIT
#pragma once
// ColumnChunk: some thousand values of one column on their way from a source to a ColumnBuilder. Filled by a loading
// thread of its own, appended to the builder in bound order. Text is collected as a small dictionary as long as values
// repeat, else as an arena.

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/columns/column.h"
#include "core/columns/type.h"

namespace jollyrow {

/// Open-addressing table of distinct strings, each with a dense code in order of appearance.
class StringTable {
  public:
    /// The code of `text`, new or known. O(length).
    std::uint32_t codeOf(std::string_view text);
    /// The code of a known one.
    std::optional<std::uint32_t> find(std::string_view text) const;
    std::size_t size() const { return offsets_.size() - 1; }
    std::string_view at(std::size_t code) const {
        return std::string_view(bytes_).substr(offsets_[code], offsets_[code + 1] - offsets_[code]);
    }
    void clear();

  private:
    void rehash(std::size_t slots);
    std::size_t slotOf(std::string_view text, std::uint32_t hash) const;
    std::string bytes_;
    std::vector<std::uint64_t> offsets_{0};
    std::vector<std::uint32_t> hashes_;
    std::vector<std::uint32_t> slots_;  ///< code + 1, 0 = free
};

/// Confined to one thread at a time.
class ColumnChunk {
  public:
    /// `preferArena`: this column's values are known hardly to repeat.
    void reset(Type type, int scale, bool preferArena);

    void addEmpty();
    void addInteger(std::int64_t value) {
        if (usesWides) return addWide(value);
        integers.push_back(value);
        ++rows;
    }
    /// An exact number of any width; from the first that needs it on, all are kept in 128 bits.
    void addWide(Int128 mantissa);
    void addReal(double value) {
        reals.push_back(value);
        ++rows;
    }
    void addText(std::string_view text);
    /// Holds no value of the type and remembers what is stored.
    void addMisfit(std::string_view text, Stored stored = Stored::Text);

    Type type = Type::Text;
    int scale = 0;
    std::size_t rows = 0;
    std::vector<std::int64_t> integers;
    std::vector<Int128> wides;  ///< instead of integers, once one did not fit
    bool usesWides = false;
    std::vector<double> reals;
    bool usesTable = true;
    StringTable table;                 ///< when usesTable
    std::vector<std::uint32_t> codes;  ///< when usesTable
    std::string bytes;                 ///< when not
    std::vector<std::uint64_t> ends;   ///< when not: end of each string in `bytes`
    std::vector<std::uint32_t> emptyRows;
    std::vector<Misfit> misfits;

  private:
    void dropTable();
};

}  // namespace jollyrow
