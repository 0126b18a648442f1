// SPDX-License-Identifier: MIT
// Idea: a dictionary pays only while values repeat. Each chunk starts one and drops it when more than half of its first
// values were new; the reader then asks the next chunks for an arena at once. Covered by tests/columns/column_test.cpp.
#include "core/columns/column_chunk.h"

#include <cstring>

namespace jollyrow {
namespace {

constexpr std::size_t kDecideAfter = 2048;

/// A fast multiplicative hash over 8-byte words; quality suffices for tables sized to twice their content.
std::uint64_t hashOf(std::string_view text) {
    std::uint64_t h = 0x9e3779b97f4a7c15ULL ^ text.size();
    const char* p = text.data();
    std::size_t left = text.size();
    while (left >= 8) {
        std::uint64_t word = 0;
        std::memcpy(&word, p, 8);
        h = (h ^ word) * 0xff51afd7ed558ccdULL;
        h ^= h >> 32;
        p += 8;
        left -= 8;
    }
    std::uint64_t tail = 0;
    if (left != 0) std::memcpy(&tail, p, left);
    h = (h ^ tail) * 0xff51afd7ed558ccdULL;
    return h ^ (h >> 29);
}

}  // namespace

void StringTable::clear() {
    bytes_.clear();
    offsets_.assign(1, 0);
    hashes_.clear();
    slots_.clear();
}

void StringTable::rehash(std::size_t slots) {
    slots_.assign(slots, 0);
    for (std::uint32_t code = 0; code < hashes_.size(); ++code) {
        std::size_t at = hashes_[code] & (slots - 1);
        while (slots_[at] != 0) at = (at + 1) & (slots - 1);
        slots_[at] = code + 1;
    }
}

std::size_t StringTable::slotOf(std::string_view text, std::uint32_t hash) const {
    std::size_t at = hash & (slots_.size() - 1);
    while (slots_[at] != 0) {
        const std::uint32_t code = slots_[at] - 1;
        if (hashes_[code] == hash && this->at(code) == text) break;
        at = (at + 1) & (slots_.size() - 1);
    }
    return at;
}

std::optional<std::uint32_t> StringTable::find(std::string_view text) const {
    if (slots_.empty()) return std::nullopt;
    const std::uint32_t found = slots_[slotOf(text, static_cast<std::uint32_t>(hashOf(text)))];
    return found == 0 ? std::nullopt : std::optional(found - 1);
}

std::uint32_t StringTable::codeOf(std::string_view text) {
    if (slots_.size() < 2 * (hashes_.size() + 1)) rehash(slots_.empty() ? 64 : slots_.size() * 2);
    const auto hash = static_cast<std::uint32_t>(hashOf(text));
    const std::size_t at = slotOf(text, hash);
    if (slots_[at] != 0) return slots_[at] - 1;
    const auto code = static_cast<std::uint32_t>(hashes_.size());
    slots_[at] = code + 1;
    hashes_.push_back(hash);
    bytes_.append(text);
    offsets_.push_back(bytes_.size());
    return code;
}

void ColumnChunk::reset(Type newType, int newScale, bool preferArena) {
    type = newType;
    scale = newScale;
    rows = 0;
    integers.clear();
    wides.clear();
    usesWides = false;
    reals.clear();
    usesTable = !preferArena;
    table.clear();
    codes.clear();
    bytes.clear();
    ends.clear();
    emptyRows.clear();
    misfits.clear();
}

void ColumnChunk::addEmpty() {
    emptyRows.push_back(static_cast<std::uint32_t>(rows));
    if (type == Type::Real)
        reals.push_back(0);
    else if (isIntegral(type))
        usesWides ? wides.push_back(0) : integers.push_back(0);
    else if (usesTable)
        codes.push_back(0);
    else
        ends.push_back(bytes.size());
    ++rows;
}

void ColumnChunk::addWide(Int128 mantissa) {
    if (!usesWides) {
        if (mantissa == static_cast<std::int64_t>(mantissa)) {
            integers.push_back(static_cast<std::int64_t>(mantissa));
            ++rows;
            return;
        }
        wides.assign(integers.begin(), integers.end());
        integers.clear();
        usesWides = true;
    }
    wides.push_back(mantissa);
    ++rows;
}

void ColumnChunk::addMisfit(std::string_view text, Stored stored) {
    misfits.push_back({static_cast<std::uint32_t>(rows), std::string(text), stored});
    addEmpty();
}

void ColumnChunk::addText(std::string_view text) {
    if (usesTable) {
        codes.push_back(table.codeOf(text));
        ++rows;
        if (rows == kDecideAfter && table.size() > kDecideAfter / 2) dropTable();
    } else {
        bytes.append(text);
        ends.push_back(bytes.size());
        ++rows;
    }
}

void ColumnChunk::dropTable() {
    std::size_t nextEmpty = 0;
    for (std::size_t row = 0; row < rows; ++row) {
        const bool isEmpty = nextEmpty < emptyRows.size() && emptyRows[nextEmpty] == row;
        if (isEmpty)
            ++nextEmpty;
        else
            bytes.append(table.at(codes[row]));
        ends.push_back(bytes.size());
    }
    usesTable = false;
    codes.clear();
    table.clear();
}

}  // namespace jollyrow
