// SPDX-License-Identifier: MIT
// Idea: integers start as narrow as their type allows and move to 64 bits once, on the first value that needs it
// (dates stay at 4 bytes, booleans at 1). A chunk's dictionary joins the column's by its distinct values only, so a
// status column of 16 384 rows costs six look-ups. When more than half of 64k rows were distinct, the dictionary is
// written out once as an arena. Cost: O(values). Covered by tests/columns/column_test.cpp.
#include "core/columns/column_builder.h"
#include "core/base/require.h"

#include <algorithm>
#include <atomic>
#include <limits>

namespace jollyrow {
namespace {

constexpr std::size_t kDropCheckRows = 65536;

std::uint64_t nextColumnId() {
    static std::atomic<std::uint64_t> next{1};
    return next.fetch_add(1, std::memory_order_relaxed);
}

int narrowestWidth(Type type) { return type == Type::Boolean ? 1 : type == Type::Time || isMoment(type) ? 8 : 4; }

template <class To, class From>
void copyAs(GrowBuffer<To>& to, const From* values, std::size_t count) {
    To* out = to.extend(count);
    for (std::size_t i = 0; i < count; ++i) out[i] = static_cast<To>(values[i]);
}

}  // namespace

ColumnBuilder::ColumnBuilder(Type type, int scale) : type_(type), scale_(scale), width_(narrowestWidth(type)) {
    if (isBytes(type)) arenaOffsets_.push(0);
    usesDictionary_ = type == Type::Text || type == Type::Interval;
}

ColumnBuilder::ColumnBuilder(const FieldSchema& field) : ColumnBuilder(field.type, field.scale) {
    unpadded_ = field.openScale;
    unread_ = field.unread;
}

ColumnBuilder::ColumnBuilder(TextArena distinct) : ColumnBuilder(Type::Text, 0) { given_ = std::move(distinct); }

void ColumnBuilder::reserve(std::size_t rows) {
    expectedRows_ = rows;
    if (isIntegral(type_)) {
        if (width_ == 1) bytes1_.reserve(rows);
        if (width_ == 4) bytes4_.reserve(rows);
        if (width_ == 8) bytes8_.reserve(rows);
    } else if (type_ == Type::Real) {
        reals_.reserve(rows);
    } else if (usesDictionary_) {
        codes_.reserve(rows);
    }
    validity_.reserve(rows / 64 + 1);
}

void ColumnBuilder::append(const ColumnChunk& chunk) {
    JOLLYROW_REQUIRE(chunk.type == type_);
    if (isIntegral(type_))
        appendIntegers(chunk);
    else if (type_ == Type::Real)
        reals_.append(chunk.reals.data(), chunk.reals.size());
    else
        appendText(chunk);
    appendValidity(chunk);
    for (const Misfit& m : chunk.misfits)
        misfits_.push_back({static_cast<std::uint32_t>(rows_ + m.row), m.text, m.stored});
    emptyCount_ += chunk.emptyRows.size();
    rows_ += chunk.rows;
}

void ColumnBuilder::appendWides(const ColumnChunk& chunk) {
    if (width_ != 16) {
        bytes16_.reserve(std::max(expectedRows_, rows_ + chunk.rows));
        if (width_ == 4) copyAs(bytes16_, bytes4_.data(), bytes4_.size());
        if (width_ == 8) copyAs(bytes16_, bytes8_.data(), bytes8_.size());
        bytes4_ = {};
        bytes8_ = {};
        width_ = 16;
    }
    chunk.usesWides ? bytes16_.append(chunk.wides.data(), chunk.wides.size())
                    : copyAs(bytes16_, chunk.integers.data(), chunk.integers.size());
}

void ColumnBuilder::appendIntegers(const ColumnChunk& chunk) {
    if (chunk.usesWides || width_ == 16) return appendWides(chunk);
    const std::int64_t* values = chunk.integers.data();
    const std::size_t count = chunk.integers.size();
    if (width_ == 4) {
        const auto [low, high] = std::minmax_element(values, values + count);
        if (count != 0 &&
            (*low < std::numeric_limits<std::int32_t>::min() || *high > std::numeric_limits<std::int32_t>::max())) {
            bytes8_.reserve(std::max(expectedRows_, rows_ + count));
            copyAs(bytes8_, bytes4_.data(), bytes4_.size());
            bytes4_ = {};
            width_ = 8;
        }
    }
    if (width_ == 1) copyAs(bytes1_, values, count);
    if (width_ == 4) copyAs(bytes4_, values, count);
    if (width_ == 8) bytes8_.append(values, count);
}

void ColumnBuilder::appendArena(std::string_view text) {
    arenaBytes_.append(text.data(), text.size());
    arenaOffsets_.push(arenaBytes_.size());
}

void ColumnBuilder::appendText(const ColumnChunk& chunk) {
    if (given_) return codes_.append(chunk.codes.data(), chunk.codes.size());
    if (usesDictionary_ && !chunk.usesTable) dropDictionary();
    if (usesDictionary_) {
        std::vector<std::uint32_t> map(std::max<std::size_t>(chunk.table.size(), 1), 0);
        for (std::size_t code = 0; code < chunk.table.size(); ++code) {
            const std::size_t before = table_.size();
            map[code] = table_.codeOf(chunk.table.at(code));
            if (table_.size() != before) appendArena(chunk.table.at(code));
        }
        std::uint32_t* out = codes_.extend(chunk.codes.size());
        for (std::size_t i = 0; i < chunk.codes.size(); ++i) out[i] = map[chunk.codes[i]];
        if (rows_ + chunk.rows >= kDropCheckRows && table_.size() > (rows_ + chunk.rows) / 2) {
            // The rows of this chunk are in codes_ already but not yet in rows_ or validity_.
            const std::size_t before = rows_;
            appendValidity(chunk);
            rows_ += chunk.rows;
            dropDictionary();
            rows_ = before;
            validity_.resize((rows_ + 63) / 64);
            if (rows_ % 64 != 0) validity_.back() &= (std::uint64_t{1} << (rows_ % 64)) - 1;
        }
        return;
    }
    if (!chunk.usesTable) {
        const std::uint64_t base = arenaBytes_.size();
        if (expectedRows_ > rows_ && rows_ == 0) {
            arenaOffsets_.reserve(expectedRows_ + 1);
            arenaBytes_.reserve(chunk.bytes.size() / std::max<std::size_t>(chunk.rows, 1) * expectedRows_ * 9 / 8 +
                                chunk.bytes.size());
        }
        arenaBytes_.append(chunk.bytes.data(), chunk.bytes.size());
        std::uint64_t* out = arenaOffsets_.extend(chunk.ends.size());
        for (std::size_t i = 0; i < chunk.ends.size(); ++i) out[i] = base + chunk.ends[i];
        return;
    }
    std::size_t nextEmpty = 0;
    for (std::size_t i = 0; i < chunk.codes.size(); ++i) {
        const bool isEmpty = nextEmpty < chunk.emptyRows.size() && chunk.emptyRows[nextEmpty] == i;
        nextEmpty += isEmpty ? 1 : 0;
        appendArena(isEmpty ? std::string_view{} : chunk.table.at(chunk.codes[i]));
    }
}

void ColumnBuilder::settle() {
    constexpr std::size_t kLeastRows = 100'000, kSample = 65'536;
    if (type_ != Type::Text || usesDictionary_ || rows_ < kLeastRows) return;
    const auto textAt = [this](std::size_t row) {
        const std::uint64_t* offsets = arenaOffsets_.data();
        return std::string_view(arenaBytes_.data() + offsets[row], offsets[row + 1] - offsets[row]);
    };
    const auto isFilled = [this](std::size_t row) { return ((validity_[row / 64] >> (row % 64)) & 1) != 0; };
    StringTable sample;
    for (std::size_t i = 0; i < kSample; ++i) sample.codeOf(textAt(i * (rows_ / kSample)));
    if (sample.size() > kSample * 19 / 20) return;
    StringTable table;
    GrowBuffer<std::uint32_t> codes;
    codes.reserve(rows_);
    for (std::size_t row = 0; row < rows_; ++row) {
        codes.push(isFilled(row) ? table.codeOf(textAt(row)) : 0);
        if (table.size() > rows_ / 2) return;
    }
    if (table.size() == 0) table.codeOf({});
    // Spans handed out before keep the blocks they point into.
    arenaBytes_ = {};
    arenaOffsets_ = {};
    arenaOffsets_.push(0);
    for (std::size_t code = 0; code < table.size(); ++code) appendArena(table.at(code));
    table_ = std::move(table);
    codes_ = std::move(codes);
    usesDictionary_ = true;
}

void ColumnBuilder::dropDictionary() {
    GrowBuffer<char> bytes;
    GrowBuffer<std::uint64_t> offsets;
    offsets.reserve(std::max(expectedRows_, rows_) + 1);
    offsets.push(0);
    for (std::size_t row = 0; row < rows_; ++row) {
        if ((validity_[row / 64] >> (row % 64)) & 1) {
            const std::string_view text = table_.at(codes_.data()[row]);
            bytes.append(text.data(), text.size());
        }
        offsets.push(bytes.size());
    }
    arenaBytes_ = std::move(bytes);
    arenaOffsets_ = std::move(offsets);
    if (rows_ != 0 && expectedRows_ > rows_) arenaBytes_.reserve(arenaBytes_.size() / rows_ * expectedRows_ * 9 / 8);
    codes_ = {};
    table_ = {};
    usesDictionary_ = false;
}

void ColumnBuilder::appendValidity(const ColumnChunk& chunk) {
    const std::size_t end = rows_ + chunk.rows;
    const std::size_t firstWord = rows_ / 64;
    validity_.resize((end + 63) / 64, 0);
    for (std::size_t word = firstWord; word < validity_.size(); ++word) {
        const std::size_t low = word == firstWord ? rows_ % 64 : 0;
        validity_[word] |= ~std::uint64_t{0} << low;
    }
    if (end % 64 != 0) validity_.back() &= (std::uint64_t{1} << (end % 64)) - 1;
    for (const std::uint32_t row : chunk.emptyRows)
        validity_[(rows_ + row) / 64] &= ~(std::uint64_t{1} << ((rows_ + row) % 64));
}

std::shared_ptr<const Column> ColumnBuilder::share() const {
    auto column = std::make_shared<Column>();
    column->type_ = type_;
    column->scale_ = scale_;
    column->unpadded_ = unpadded_;
    column->unread_ = unread_;
    column->size_ = rows_;
    column->emptyCount_ = emptyCount_;
    column->id_ = nextColumnId();
    if (isIntegral(type_)) {
        if (width_ == 1) column->storage_ = bytes1_.share();
        if (width_ == 4) column->storage_ = bytes4_.share();
        if (width_ == 8) column->storage_ = bytes8_.share();
        if (width_ == 16) column->storage_ = bytes16_.share();
    } else if (type_ == Type::Real) {
        column->storage_ = reals_.share();
    } else if (given_) {
        column->storage_ = TextDictionary{codes_.share(), *given_};
    } else if (usesDictionary_) {
        TextArena distinct{arenaBytes_.share(), arenaOffsets_.share()};
        if (distinct.size() == 0) {  // all rows empty: code 0 must still name a string
            GrowBuffer<std::uint64_t> offsets;
            offsets.push(0);
            offsets.push(0);
            distinct.offsets = offsets.share();
        }
        column->storage_ = TextDictionary{codes_.share(), distinct};
    } else {
        column->storage_ = TextArena{arenaBytes_.share(), arenaOffsets_.share()};
    }
    if (emptyCount_ != 0) {
        GrowBuffer<std::uint64_t> words;
        words.append(validity_.data(), validity_.size());
        column->validity_ = words.share();
    }
    if (!misfits_.empty()) column->misfits_ = std::make_shared<const std::vector<Misfit>>(misfits_);
    return column;
}

}  // namespace jollyrow
